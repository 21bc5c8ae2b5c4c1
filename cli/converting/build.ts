/** `larder build`: a plan run on files, with the core's own select, relabel, split, prepare, augment and pack. */
import type { Format, Outgoing, OutgoingItem } from "@larder/core/formats/format";
import { sortOptions } from "@larder/core/formats/options";
import { formatNamed } from "@larder/core/formats/registry";
import { verifyPackage, writePackage, type LinkingSink } from "@larder/core/formats/write-package";
import { leavesBytes } from "@larder/core/imaging/transform";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings, type Finding } from "@larder/core/model/finding";
import { blankItem, type ClassInfo, type Split } from "@larder/core/model/item";
import { runFlow } from "@larder/core/plans/flow";
import { lightStock, type StockRow } from "@larder/core/stock/light-stock";
import { outputsOf } from "@larder/core/plans/outputs";
import { planFromYaml, type Plan } from "@larder/core/plans/plan";
import { reportUnpairedMirrors } from "@larder/core/plans/mirror-findings";
import { classesAfter } from "@larder/core/relabel/mapping";
import { OutputNames } from "@larder/core/versions/output-names";
import { openSource } from "@larder/server/files/open-source";
import { render, renderedExtension } from "@larder/server/pixels/render";
import { settings } from "@larder/server/settings";
import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import path from "node:path";
import { Destination } from "./destination";
import { printFindings } from "./print";
import { progressBar, type Progress } from "./progress";
import { chooseFormat, settledItems, type Settled } from "./settled-items";

export type Build = {
  from: string;
  images: number;
  objects: number;
  packages: { to: string; place: string; images: number; objects: number }[];
  findings: Finding[];
};

const hashOf = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");

function readPlan(file: string): Plan {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch {
    throw new Failure("plan-missing", `There is no plan ${file}.`);
  }
  const plan = planFromYaml(text);
  if (plan.select.deliveries !== null)
    throw new Failure(
      "plan-deliveries",
      "The plan selects deliveries, which files do not have. Take that line out of it.",
    );
  if (plan.pack.formats.length === 0)
    throw new Failure("plan-formats", "The plan packs no format. Name one under pack.");
  return plan;
}

/** As much of the source as counting and dealing need. Of several pictures with the same bytes the first counts. */
async function rowsOf(
  items: AsyncIterable<Settled>,
  report: Findings,
): Promise<{ rows: StockRow[]; keys: Map<string, string> }> {
  const rows: StockRow[] = [];
  const keys = new Map<string, string>();
  const taken = new Set<string>();
  for await (const { item, facts, bytes } of items) {
    if (!facts || !bytes) continue;
    const key = hashOf(bytes);
    if (taken.has(key)) {
      report.add("copy-in-delivery", item.path);
      continue;
    }
    taken.add(key);
    keys.set(item.path, key);
    const objects = new Map<string, number>();
    for (const object of item.objects) objects.set(object.class, (objects.get(object.class) ?? 0) + 1);
    rows.push({ key, delivery: 0, split: item.split, state: item.state, objects, classes: item.classes });
  }
  // Dealing does not depend on it, but the same source in another order is to give the same lists.
  return { rows: rows.sort((a, b) => (a.key < b.key ? -1 : 1)), keys };
}

async function* builtItems(
  items: AsyncIterable<Settled>,
  plan: Plan,
  classes: readonly ClassInfo[],
  keys: ReadonlyMap<string, string>,
  assigned: ReadonlyMap<string, Split>,
): AsyncIterable<OutgoingItem> {
  const names = new OutputNames();
  for await (const { item, facts, bytes } of items) {
    const key = keys.get(item.path);
    const split = key === undefined ? undefined : assigned.get(key);
    if (key === undefined || !split || !facts || !bytes) continue;
    const { width, height, orientation } = facts;
    for (const { copy, transform, ...output } of outputsOf(
      { ...item, key, size: { width, height }, orientation },
      plan,
      split,
      classes,
    )) {
      const extension = renderedExtension(facts.extension, transform);
      const made = {
        ...blankItem(names.claim(item.path, copy, leavesBytes(transform) ? null : extension)),
        split,
        captions: item.captions,
        fields: item.fields,
        ...(item.licence ? { licence: item.licence } : {}),
        ...output,
        origin: { path: item.path, delivery: "", copy },
      };
      yield { ...made, open: async () => (leavesBytes(transform) ? bytes : render(bytes, transform, extension)) };
    }
  }
}

/** The sink's part under a folder, for plans that pack several formats. */
function within(sink: LinkingSink, folder: string): LinkingSink {
  if (folder === "") return sink;
  return {
    write: (file, content) => sink.write(`${folder}/${file}`, content),
    async spool() {
      const spool = await sink.spool();
      return {
        get size() {
          return spool.size;
        },
        append: (bytes) => spool.append(bytes),
        commit: (file) => spool.commit(`${folder}/${file}`),
      };
    },
  };
}

function treeWithin(tree: FileTree, folder: string): FileTree {
  if (folder === "") return tree;
  const inside = (file: string) => `${folder}/${file}`;
  return {
    entries: async () =>
      (await tree.entries()).flatMap(({ path: file, size }) =>
        file.startsWith(`${folder}/`) ? [{ path: file.slice(folder.length + 1), size }] : [],
      ),
    read: (file) => tree.read(inside(file)),
    stream: (file) => tree.stream(inside(file)),
    readRange: (file, start, end) => tree.readRange(inside(file), start, end),
  };
}

/**
 * Runs a plan on a source. Nothing stands at the destination before every package is whole and compared with what went
 * in.
 */
export async function buildSource(
  source: string,
  destination: string,
  input: { plan: string; from?: string | undefined; option: readonly string[] },
  progress?: Progress,
): Promise<Build> {
  const plan = readPlan(input.plan);
  const place = new Destination(destination);
  const report = new Findings();
  const { pixels } = settings().limits;
  const { tree, close } = await openSource(source, settings().limits, report);
  try {
    const format = await chooseFormat(tree, input.from, report);
    const { reading: options } = sortOptions(input.option, format);
    const items = async (into: Findings): Promise<{ classes: ClassInfo[]; items: AsyncIterable<Settled> }> => {
      const reading = await format.read(tree, options, into);
      return { classes: reading.classes, items: settledItems(tree, reading, pixels, into, options) };
    };
    progress?.total((await tree.entries()).length);
    const first = await items(report);
    const { rows, keys } = await rowsOf(first.items, report);
    const { assigned, emptySplits } = runFlow(lightStock(rows), plan);
    if (assigned.size === 0)
      throw new Failure("nothing-to-build", "No image comes through this plan. Loosen its selection.");
    if (emptySplits.length > 0)
      throw new Failure(
        "split-empty",
        `${emptySplits.join(" and ")} would hold no image: there are only ${assigned.size} for the splits that were asked for. Add images, or set that share to 0.`,
      );
    const after = classesAfter(
      first.classes.map((info) => info.name),
      plan.relabel,
    );
    const classes = after.map((name): ClassInfo => ({ ...first.classes.find((info) => info.name === name), name }));
    reportUnpairedMirrors(plan, classes, report);
    const sink = await place.open();
    const several = plan.pack.formats.length > 1;
    const packed: {
      target: Format;
      folder: string;
      written: Awaited<ReturnType<typeof writePackage>>;
      writing: Record<string, string>;
    }[] = [];
    for (const name of plan.pack.formats) {
      const target = formatNamed(name);
      const writing = {
        ...target.surveyed?.({ objects: rows.reduce((sum, row) => sum + row.objects.size, 0), imageClasses: 0 }, {}),
      };
      const outgoing: Outgoing = {
        title: path.basename(path.resolve(source)),
        classes,
        notes: [],
        items: builtItems((await items(new Findings())).items, plan, classes, keys, assigned),
      };
      const folder = several ? name : "";
      packed.push({
        target,
        folder,
        writing,
        written: await writePackage(target, outgoing, within(sink, folder), writing, report),
      });
      progress?.step();
    }
    const back = await place.written();
    try {
      for (const { target, folder, written, writing } of packed)
        await verifyPackage(target, treeWithin(back.tree, folder), written, writing);
    } finally {
      back.close();
    }
    await place.moveIn();
    const objects = rows.reduce(
      (sum, row) => sum + [...row.objects.values()].reduce((total, count) => total + count, 0),
      0,
    );
    return {
      from: format.name,
      images: rows.length,
      objects,
      packages: packed.map(({ target, folder, written }) => ({
        to: target.name,
        place: path.join(destination, folder),
        images: written.images,
        objects: written.objects,
      })),
      findings: report.list(),
    };
  } finally {
    progress?.end();
    close();
    await place.clear();
  }
}

/** Prints and returns the exit status. */
export async function build(
  source: string,
  destination: string,
  { plan, from, option, json }: { plan: string; from?: string; option: string[]; json?: boolean },
): Promise<number> {
  const built = await buildSource(
    source,
    destination,
    { plan, from, option },
    json ? undefined : progressBar("Building"),
  );
  if (json) console.log(JSON.stringify(built, null, 2));
  else {
    const say = (value: number) => value.toLocaleString("en-US");
    console.log(`${source}, read as ${built.from}: ${say(built.images)} images and ${say(built.objects)} objects`);
    for (const { to, place, images, objects } of built.packages)
      console.log(`${place} as ${to}: ${say(images)} images and ${say(objects)} objects, read back and compared`);
    console.log("");
    printFindings(built.findings);
  }
  return built.findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
