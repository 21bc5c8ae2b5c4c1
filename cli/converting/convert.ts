import { announceLosses } from "@larder/core/formats/loss";
import type { OutgoingItem } from "@larder/core/formats/format";
import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { Failure } from "@larder/core/model/failure";
import { Findings, type Finding } from "@larder/core/model/finding";
import { FolderSink, FolderTree } from "@larder/server/files/folder-tree";
import { openSource } from "@larder/server/files/open-source";
import { ZipSink } from "@larder/server/files/zip-sink";
import { ZipTree } from "@larder/server/files/zip-tree";
import { settings } from "@larder/server/settings";
import { existsSync, readdirSync, statSync } from "node:fs";
import { mkdir, rename, rm, rmdir } from "node:fs/promises";
import path from "node:path";
import { printFindings } from "./print";
import { chooseFormat, parseOptions, settledItems } from "./settled-items";

export type Conversion = { from: string; to: string; images: number; objects: number; written: { images: number; objects: number }; findings: Finding[] };

function refuseFilled(destination: string): void {
  if (!existsSync(destination)) return;
  const filled = statSync(destination).isDirectory() ? readdirSync(destination).length > 0 : true;
  if (filled) throw new Failure("destination-filled", `${destination} holds something already. Nothing was touched; name a folder that is absent or empty.`);
}

/** Rewrites a source in another format. What is written lies aside until it is whole and read back, then moves to its place. */
export async function convertSource(source: string, destination: string, input: { to: string; from?: string | undefined; option: readonly string[] }): Promise<Conversion> {
  const target = formatNamed(input.to);
  if (!target.write) throw new Failure("format-unknown", `"${input.to}" cannot be written yet. These can: ${packageFormats.join(", ")}.`);
  refuseFilled(destination);
  const report = new Findings();
  const { limits } = settings();
  const options = parseOptions(input.option);
  const { tree, close } = await openSource(source, limits, report);
  const zipped = /\.zip$/i.test(destination);
  const aside = path.join(path.dirname(path.resolve(destination)), `.${path.basename(destination)}.part-${process.pid}`);
  try {
    const format = await chooseFormat(tree, input.from, report);
    const reading = await format.read(tree, options, report);
    let images = 0;
    let objects = 0;
    async function* items(): AsyncIterable<OutgoingItem> {
      for await (const { item, facts } of settledItems(tree, reading, limits.pixels, report)) {
        images++;
        objects += item.objects.length;
        if (!facts) continue;
        announceLosses(item, target.carries, report);
        yield { ...item, size: { width: facts.width, height: facts.height }, open: () => tree.read(item.path) };
      }
    }
    const outgoing = { title: path.basename(source), classes: reading.classes, notes: [], items: items() };
    await mkdir(path.dirname(aside), { recursive: true });
    const sink = zipped ? new ZipSink(aside) : new FolderSink(aside);
    if (!zipped) await mkdir(aside);
    const written = await target.write(outgoing, sink, options, report);
    if (sink instanceof ZipSink) await sink.finish();
    const back = await readBack(aside, zipped, input.to);
    if (back.images !== written.images || back.objects !== written.objects) {
      throw new Failure("conversion-differs", `What was written does not read back the same: ${written.images} images and ${written.objects} objects went in, ${back.images} and ${back.objects} came back.`);
    }
    if (existsSync(destination)) await rmdir(destination);
    await rename(aside, destination);
    return { from: format.name, to: target.name, images, objects, written, findings: report.list() };
  } finally {
    close();
    await rm(aside, { recursive: true, force: true });
  }
}

async function readBack(place: string, zipped: boolean, format: string): Promise<{ images: number; objects: number }> {
  const report = new Findings();
  const zip = zipped ? await ZipTree.open(place, { ...settings().limits, archiveBytes: Infinity }, report) : null;
  const counted = { images: 0, objects: 0 };
  const reading = await formatNamed(format).read(zip ?? new FolderTree(place), {}, report);
  for await (const item of reading.items) {
    counted.images++;
    counted.objects += item.objects.length;
  }
  zip?.close();
  return counted;
}

/** `larder convert`: prints and returns the exit status. */
export async function convert(source: string, destination: string, { to, from, option, json }: { to: string; from?: string; option: string[]; json?: boolean }): Promise<number> {
  const conversion = await convertSource(source, destination, { to, from, option });
  if (json) console.log(JSON.stringify(conversion, null, 2));
  else {
    const say = (value: number) => value.toLocaleString("en-US");
    console.log(`${source} (${conversion.from}) → ${destination} (${conversion.to}): ${say(conversion.written.images)} of ${say(conversion.images)} images, ${say(conversion.written.objects)} of ${say(conversion.objects)} objects\n`);
    printFindings(conversion.findings);
  }
  return conversion.findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
