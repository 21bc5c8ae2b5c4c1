import type { Format, Options, Outgoing, OutgoingItem, Reading } from "@larder/core/formats/format";
import { defaultTarget, holdingsOf } from "@larder/core/formats/default-target";
import { sortOptions } from "@larder/core/formats/options";
import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { verifyPackage, writePackage } from "@larder/core/formats/write-package";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings, type Finding } from "@larder/core/model/finding";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { openSource } from "@larder/server/files/open-source";
import { settings } from "@larder/server/settings";
import path from "node:path";
import { CardWriter } from "./card-files";
import { Destination } from "./destination";
import { printFindings } from "./print";
import { progressBar, type Progress } from "./progress";
import { chooseFormat, settledItems, type FoundItem } from "./settled-items";
import { whereTest } from "./where";

/** `because` says why this target, where nobody named one. */
export type Conversion = {
  from: string;
  to: string;
  because?: string;
  images: number;
  objects: number;
  written: { images: number; objects: number };
  findings: Finding[];
};

const silent: Progress = { total: () => undefined, step: () => undefined, end: () => undefined };

function targetNamed(name: string): Format {
  const target = formatNamed(name);
  if (!target.write)
    throw new Failure("format-unknown", `"${name}" cannot be written. These can: ${packageFormats.join(", ")}.`);
  return target;
}

/**
 * Rewrites a source in another format, one that suits what it holds where none is named. What is written lies aside
 * until it is whole and compared with what went in.
 */
export async function convertSource(
  source: string,
  destination: string,
  input: { to?: string | undefined; from?: string | undefined; option: readonly string[]; where?: string | undefined },
  progress: Progress = silent,
): Promise<Conversion> {
  if (input.to !== undefined) targetNamed(input.to);
  const place = new Destination(destination);
  const report = new Findings();
  const { limits } = settings();
  const { tree, onDisk, close } = await openSource(source, limits, report);
  try {
    const format = await chooseFormat(tree, input.from, report);
    // What the source holds decides on the target, and on some writers' options: it is looked through once for both.
    const holdings = input.to === undefined ? await holdingsOf(await format.read(tree, {}, new Findings())) : null;
    const chosen = holdings && defaultTarget(format.name, holdings);
    const target = targetNamed(input.to ?? chosen?.to ?? "");
    const options = sortOptions(input.option, format, target);
    const read = (into: Findings) => format.read(tree, options.reading, into);
    const writing =
      target.surveyed?.(holdings ?? (await holdingsOf(await read(new Findings()))), options.writing) ?? options.writing;
    const means = await whereTest(input.where ?? "", () => read(new Findings()));
    const reading = await read(report);
    progress.total((await tree.entries()).length);
    const counted = { images: 0, objects: 0 };
    const title = path.basename(path.resolve(source));
    const card = new CardWriter({ title, source: title, digest: null, plan: null, format: target, report });
    const outgoing: Outgoing = {
      title,
      classes: reading.classes,
      notes: [],
      files: card.files,
      items: card.counted(
        outgoingItems(
          tree,
          reading,
          onDisk,
          writing["images"] === "none",
          counted,
          limits.pixels,
          report,
          options.reading,
          progress,
          means,
        ),
      ),
    };
    const written = await writePackage(target, outgoing, await place.open(), writing, report);
    const back = await place.written();
    try {
      await verifyPackage(target, back.tree, written, writing);
    } finally {
      back.close();
    }
    for (const [a, b] of lookAlikes(reading.classes.map((info) => info.name)))
      report.add("class-similar", "", `"${a}" and "${b}"`);
    await place.moveIn();
    return {
      from: format.name,
      to: target.name,
      ...(chosen ? { because: chosen.reason } : {}),
      ...counted,
      written: { images: written.images, objects: written.objects },
      findings: report.list(),
    };
  } finally {
    progress.end();
    close();
    await place.clear();
  }
}

const noBytes = new Uint8Array();
const giving = (bytes: Uint8Array) => () => Promise.resolve(bytes);

/**
 * What of a source can be written: every picture that is there, and the missing ones where only their labels are asked
 * for and their size is known.
 */
async function* outgoingItems(
  tree: FileTree,
  reading: Reading,
  onDisk: (path: string) => string | null,
  labelsOnly: boolean,
  counted: { images: number; objects: number },
  maxPixels: number,
  report: Findings,
  options: Options,
  progress: Progress,
  means: (item: FoundItem) => boolean,
): AsyncIterable<OutgoingItem> {
  for await (const { item, facts, bytes } of settledItems(tree, reading, maxPixels, report, options, means)) {
    counted.images++;
    counted.objects += item.objects.length;
    progress.step();
    const size = facts
      ? { width: facts.width, height: facts.height }
      : !item.present && labelsOnly
        ? item.declared
        : undefined;
    if (!size) continue;
    const file = item.inside ? null : onDisk(item.path);
    const outgoing: OutgoingItem = { ...item, size, open: giving(bytes ?? noBytes) };
    if (file !== null) outgoing.file = file;
    yield outgoing;
  }
}

/** `larder convert`: prints and returns the exit status. */
export async function convert(
  source: string,
  destination: string,
  input: { to?: string; from?: string; where?: string; option: string[]; json?: boolean },
): Promise<number> {
  const { json } = input;
  const conversion = await convertSource(source, destination, input, json ? silent : progressBar("Converting"));
  if (json) console.log(JSON.stringify(conversion, null, 2));
  else {
    const say = (value: number) => value.toLocaleString("en-US");
    console.log(`${source}, read as ${conversion.from}, is now ${destination} as ${conversion.to}:`);
    console.log(
      `${say(conversion.written.images)} of ${say(conversion.images)} images and ${say(conversion.written.objects)} of ${say(conversion.objects)} objects, read back and compared.\n`,
    );
    if (conversion.because)
      console.log(`No format was asked for; ${conversion.to} was taken: ${conversion.because}. --to names another.\n`);
    printFindings(conversion.findings);
  }
  return conversion.findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
