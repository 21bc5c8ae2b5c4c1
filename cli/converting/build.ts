/** `larder build`: a plan run on files, with the core's own select, relabel, split, prepare, augment and pack. */
import { fitItem } from "@larder/core/formats/fit";
import type { Format, Options, Outgoing } from "@larder/core/formats/format";
import type { GateResult } from "@larder/core/checks/gates";
import { checkedOptions, sortOptions } from "@larder/core/formats/options";
import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { verifyPackage, writePackage, type LinkingSink } from "@larder/core/formats/write-package";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings, type Finding } from "@larder/core/model/finding";
import { splitNames, type Split } from "@larder/core/model/item";
import { countOutputs } from "@larder/core/plans/count-outputs";
import { manyOutputs, mostMoved, type Band, type Flow, type FlowStep } from "@larder/core/plans/flow";
import { refuseEmptySplits } from "@larder/core/plans/empty-splits";
import { reportUnpairedMirrors } from "@larder/core/plans/mirror-findings";
import { type OutputContext } from "@larder/core/plans/outputs";
import { planToYaml } from "@larder/core/plans/plan-text";
import type { Plan } from "@larder/core/plans/plan";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { ManifestDigest, type ManifestHeader, type ManifestLine } from "@larder/core/versions/manifest";
import { relabeledImage } from "@larder/core/versions/version-lines";
import { LineFile } from "@larder/server/files/line-file";
import { openSource } from "@larder/server/files/open-source";
import { closeRenderers } from "@larder/server/pixels/render-pool";
import { settings } from "@larder/server/settings";
import { rename, rm } from "node:fs/promises";
import path from "node:path";
import { CardWriter } from "./card-files";
import { CheckedSource } from "./checked-source";
import { gatesOf } from "./gates-of";
import { Destination, refuseFilled } from "./destination";
import { explainImage } from "./explain";
import { PlannedSource } from "./planned-source";
import { printFindings, printGates, printRows } from "./print";
import { progressBar, type Progress } from "./progress";
import { readPlan } from "./read-plan";
import { itemOf, Run } from "./run";
import { chooseFormat } from "./settled-items";

type Count = { images: number; objects: number };

export type Build = Count & {
  from: string;
  /** Null where the plan makes so many outputs that they are only counted. */
  digest: string | null;
  splits: Record<Split, Count>;
  steps: (Count & { step: string; estimate?: string })[];
  packages: (Count & { to: string; place: string })[];
  /** The gates of the plan; while one is closed nothing is written. */
  gates: GateResult[];
  findings: Finding[];
};

export type BuildInput = {
  plan: string;
  from?: string | undefined;
  option: readonly string[];
  manifest?: string | undefined;
  dry?: boolean | undefined;
  explain?: string | undefined;
  /** Builds a plan of very many outputs without asking. */
  yes?: boolean | undefined;
};

type Target = { format: Format; options: Options };

/** The formats a plan packs, with the options that it gives them. */
function targetsOf({ pack }: Plan): Target[] {
  if (pack.formats.length === 0) throw new Failure("plan-formats", "The plan packs no format. Name one under pack.");
  return pack.formats.map(({ format: name, options }) => {
    if (!packageFormats.includes(name))
      throw new Failure("plan-formats", `"${name}" cannot be packed. These can: ${packageFormats.join(", ")}.`);
    const format = formatNamed(name);
    return { format, options: checkedOptions(format, options) };
  });
}

const sum = (bands: readonly Band[]): Count => ({
  images: bands.reduce((total, { images }) => total + images, 0),
  objects: bands.reduce((total, { objects }) => total + objects, 0),
});

/** All steps of the flow: those that the labels themselves must be moved for are worked out here. */
async function wholeSteps(source: PlannedSource, flow: Flow, context: OutputContext): Promise<FlowStep[]> {
  if (!flow.needsLabels) return flow.steps;
  const keys = [...flow.assigned.keys()].sort();
  const stride = Math.max(1, Math.ceil(flow.outputs / mostMoved));
  const some = keys.filter((_, at) => at % stride === 0);
  async function* images() {
    for await (const image of source.stockImages(some))
      yield { image: relabeledImage(image, flow), split: flow.assigned.get(image.key) as Split };
  }
  const sampled = stride > 1 ? { all: keys.length, sampled: some.length } : undefined;
  return [...flow.steps, ...(await countOutputs(images(), context, sampled)).steps];
}

/** The manifest written to a file, and its digest; only the digest where no file is given. */
async function writeManifest(
  lines: AsyncIterable<{ line: ManifestLine }>,
  header: ManifestHeader,
  file: string | null,
): Promise<{ digest: string; splits: Record<Split, Count>; total: Count }> {
  const digest = new ManifestDigest(header);
  const splits = { train: { images: 0, objects: 0 }, val: { images: 0, objects: 0 }, test: { images: 0, objects: 0 } };
  const out = file === null ? null : await LineFile.create(file);
  await out?.add(canonicalJson(header));
  for await (const { line } of lines) {
    const text = digest.add(line);
    await out?.add(text);
    splits[line.split].images++;
    splits[line.split].objects += line.objects.length;
  }
  await out?.end();
  const total = splitNames.reduce(
    (all, split) => ({ images: all.images + splits[split].images, objects: all.objects + splits[split].objects }),
    { images: 0, objects: 0 },
  );
  return { digest: digest.hex(), splits, total };
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

/** What the formats will make of a run's lines, before anything is written. */
async function foreseen(run: Run, targets: readonly Target[], report: Findings): Promise<Build["packages"]> {
  const counts = targets.map(({ format }) => ({ to: format.name, place: "", images: 0, objects: 0 }));
  for await (const { line, image } of run.lines())
    targets.forEach(({ format, options }, at) => {
      const fitted = fitItem({ ...itemOf(line, image.name), path: line.name }, format, options, report);
      const count = counts[at];
      if (!fitted || !count) return;
      count.images++;
      count.objects += fitted.objects.length;
    });
  return counts;
}

/** Writes every format aside, reads it back, and moves all of it to its place. */
async function writePackages(
  run: Run,
  targets: readonly Target[],
  {
    destination,
    title,
    digest,
    report,
    progress,
  }: { destination: string; title: string; digest: string; report: Findings; progress: Progress | undefined },
): Promise<Build["packages"]> {
  const place = new Destination(destination);
  try {
    const sink = await place.open();
    const written: { folder: string; target: Target; done: Awaited<ReturnType<typeof writePackage>> }[] = [];
    for (const target of targets) {
      const folder = targets.length > 1 ? target.format.name : "";
      const card = new CardWriter({
        title,
        source: title,
        digest,
        plan: planToYaml(run.plan),
        format: target.format,
        report,
      });
      const outgoing: Outgoing = {
        title,
        files: card.files,
        classes: run.classes,
        notes: [`Digest of this data set: ${digest}`],
        items: card.counted(counted(run.items(), progress)),
      };
      const done = await writePackage(target.format, outgoing, within(sink, folder), target.options, report);
      written.push({ folder, target, done });
    }
    const back = await place.written();
    try {
      for (const { folder, target, done } of written)
        await verifyPackage(target.format, treeWithin(back.tree, folder), done, target.options);
    } finally {
      back.close();
    }
    await place.moveIn();
    return written.map(({ folder, target, done }) => ({
      to: target.format.name,
      place: path.join(destination, folder),
      images: done.images,
      objects: done.objects,
    }));
  } finally {
    await place.clear();
  }
}

async function* counted<T>(items: AsyncIterable<T>, progress: Progress | undefined): AsyncGenerator<T> {
  for await (const item of items) {
    progress?.step();
    yield item;
  }
}

/**
 * Runs a plan on a source. Nothing stands at the destination before every package is whole and compared with what went
 * in. Without a destination, or with `dry`, packages are only counted.
 */
export async function buildSource(
  sourcePath: string,
  destination: string | undefined,
  input: BuildInput,
  progress?: Progress,
): Promise<Build & { explanation?: string[] }> {
  const plan = readPlan(input.plan);
  const targets = targetsOf(plan);
  const writes = destination !== undefined && !input.dry;
  if (writes) refuseFilled(destination);
  const report = new Findings();
  const { tree, close } = await openSource(sourcePath, settings().limits, report);
  let source: PlannedSource | null = null;
  try {
    const format = await chooseFormat(tree, input.from, report);
    const { reading: options } = sortOptions(input.option, format);
    progress?.total((await tree.entries()).length);
    const checked = Object.keys(plan.gates).length > 0 ? new CheckedSource(settings().limits.pixels, report) : null;
    source = await PlannedSource.read(tree, format, { options, plan, report, step: () => progress?.step(), checked });
    const run = Run.of(source, plan);
    const { flow } = run;
    const gates = checked ? gatesOf(plan, checked.outcome(source.classes, flow)) : [];
    if (input.explain !== undefined)
      return {
        ...(await counts(run, format.name)),
        gates,
        findings: report.list(),
        explanation: await explainImage(source, run, input.explain),
      };
    refuseEmptySplits(flow, plan);
    if (writes && gates.some(({ isOpen }) => !isOpen))
      return { ...(await counts(run, format.name)), gates, findings: report.list() };
    reportUnpairedMirrors(plan, run.classes, report);
    if (flow.outputs > manyOutputs && writes && !input.yes)
      throw new Failure(
        "outputs-many",
        `This plan makes ${flow.outputs.toLocaleString("en-US")} images. Add --yes to build them all the same.`,
      );
    const whole = targets.map((target) => ({
      ...target,
      options: {
        ...target.format.surveyed?.({ objects: run.source.objects, imageClasses: 0 }, target.options),
        ...target.options,
      },
    }));
    const steps = await wholeSteps(source, flow, run.context);
    if (flow.outputs > manyOutputs && !input.yes)
      return { ...summary(source, format.name, steps), digest: null, packages: [], gates, findings: report.list() };
    const aside = input.manifest !== undefined && !input.dry ? `${input.manifest}.part-${process.pid}` : null;
    try {
      const { digest, splits, total } = await writeManifest(run.lines(report), run.header, aside);
      if (total.images === 0) throw new Failure("nothing-to-build", "No image comes out of this plan.");
      const packages = writes
        ? await writePackages(run, whole, {
            destination,
            title: path.basename(path.resolve(sourcePath)),
            digest,
            report,
            progress,
          })
        : await foreseen(run, whole, report);
      if (aside !== null) await rename(aside, input.manifest as string);
      return {
        ...summary(source, format.name, exactLast(steps, splits)),
        splits,
        digest,
        packages,
        gates,
        findings: report.list(),
      };
    } finally {
      if (aside !== null) await rm(aside, { force: true });
    }
  } finally {
    progress?.end();
    source?.close();
    close();
    await closeRenderers();
  }
}

/** The last two steps as they came out, which an estimate may have missed. */
function exactLast(steps: readonly FlowStep[], splits: Record<Split, Count>): FlowStep[] {
  return steps.map(({ estimate, ...step }) => {
    if (step.step !== "augment" && step.step !== "pack") return { ...step, ...(estimate ? { estimate } : {}) };
    const bands = splitNames.flatMap((split) =>
      splits[split].images > 0 ? [{ split, ...splits[split], byClass: {} }] : [],
    );
    return { ...step, bands };
  });
}

function summary(
  source: PlannedSource,
  from: string,
  steps: readonly FlowStep[],
): Omit<Build, "digest" | "packages" | "gates" | "findings"> {
  const last = steps.at(-1)?.bands ?? [];
  const band = (split: Split): Count => sum(last.filter((entry) => entry.split === split));
  return {
    from,
    images: source.images,
    objects: source.objects,
    splits: { train: band("train"), val: band("val"), test: band("test") },
    steps: steps.map(({ step, bands, estimate }) => ({ step, ...sum(bands), ...(estimate ? { estimate } : {}) })),
  };
}

async function counts(run: Run, from: string): Promise<Omit<Build, "gates" | "findings">> {
  const steps = await wholeSteps(run.source, run.flow, run.context);
  return { ...summary(run.source, from, steps), digest: null, packages: [] };
}

/** Prints and returns the exit status. */
export async function build(
  source: string,
  destination: string | undefined,
  input: BuildInput & { json?: boolean },
): Promise<number> {
  const { json } = input;
  const built = await buildSource(source, destination, input, json ? undefined : progressBar("Building"));
  if (json) console.log(JSON.stringify(built, null, 2));
  else printBuild(source, built);
  const isClosed = built.gates.some(({ isOpen }) => !isOpen);
  return isClosed || built.findings.some(({ severity }) => severity === "error") ? 1 : 0;
}

function printBuild(source: string, built: Build & { explanation?: string[] }): void {
  const say = (value: number) => value.toLocaleString("en-US");
  console.log(`${source}, read as ${built.from}: ${say(built.images)} images and ${say(built.objects)} objects`);
  if (built.explanation) {
    for (const line of built.explanation) console.log(line);
    return;
  }
  console.log("");
  printRows(
    ["step", "images", "objects"],
    built.steps.map(({ step, images, objects, estimate }) => [estimate ? `${step} (estimate)` : step, images, objects]),
  );
  const splits = splitNames.filter((split) => built.splits[split].images > 0);
  printRows(
    ["split", "images", "objects"],
    splits.map((split) => [split, built.splits[split].images, built.splits[split].objects]),
  );
  if (built.digest) console.log(`digest ${built.digest}`);
  for (const { to, place, images, objects } of built.packages)
    console.log(
      place === ""
        ? `${to} would hold ${say(images)} images and ${say(objects)} objects`
        : `${place} as ${to}: ${say(images)} images and ${say(objects)} objects, read back and compared`,
    );
  printGates(built.gates);
  console.log("");
  printFindings(built.findings);
}
