import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { gateResults, type GateResult } from "@larder/core/checks/gates";
import { takeStock } from "@larder/core/checks/stocktake";
import type { ClassTally } from "@larder/core/checks/tally";
import type { Format, Options } from "@larder/core/formats/format";
import { sortOptions } from "@larder/core/formats/options";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings, worstFirst, type Severity } from "@larder/core/model/finding";
import type { Plan } from "@larder/core/plans/plan";
import type { Outcome } from "@larder/core/snapshot/outcome";
import { splitCodes } from "@larder/core/snapshot/snapshot";
import { openSource } from "@larder/server/files/open-source";
import { settings } from "@larder/server/settings";
import { CheckedSource } from "./checked-source";
import { PlannedSource } from "./planned-source";
import { printGates, printRows } from "./print";
import { progressBar, type Progress } from "./progress";
import { readPlan } from "./read-plan";
import { chooseFormat, settledItems, type FoundItem } from "./settled-items";
import { whereTest } from "./where";

export type CheckedFinding = {
  code: string;
  severity: Severity;
  message: string;
  count: number;
  /** Paths of images that prove it, the first few. */
  examples: string[];
  threshold: number | null;
};
export type StockNumbers = {
  images: number;
  objects: number;
  splits: Record<(typeof splitCodes)[number], number>;
  classes: ClassTally[];
};

const mostExamples = 10;

export type CheckedInput = {
  from?: string | undefined;
  option: readonly string[];
  where?: string | undefined;
  /** The file of a plan: what it leaves of the source is looked at. */
  plan?: string | undefined;
};

export type CheckedResult = {
  format: string;
  numbers: StockNumbers;
  findings: CheckedFinding[];
  /** Those of the plan. */
  gates: GateResult[];
};

/** The stocktake of a source. Throws a Failure where it cannot be read at all. */
export async function checkSource(
  source: string,
  { from, option, where = "", plan: planFile }: CheckedInput,
  progress?: Progress,
): Promise<CheckedResult> {
  const plan = planFile === undefined ? null : readPlan(planFile);
  const report = new Findings();
  const { tree, close } = await openSource(source, settings().limits, report);
  try {
    const format = await chooseFormat(tree, from, report);
    const { reading: options } = sortOptions(option, format);
    const means = await whereTest(where, () => format.read(tree, options, new Findings()));
    progress?.total((await tree.entries()).length);
    const step = () => progress?.step();
    const { snapshot, slots } = plan
      ? await plannedStock(tree, format, { options, plan, report, step, means })
      : await wholeStock(tree, format, { options, report, step, means });
    const stock = checkedStockOf(snapshot, slots, snapshot.learned);
    const shown = takeStock(stock);
    const codes = new Set<string>(shown.map(({ code }) => code));
    const findings = [
      ...shown.map(({ code, severity, sentence, count, proofs, threshold }) => ({
        ...{ code, severity, message: sentence, count, threshold },
        examples: proofs.slice(0, mostExamples).map(({ slot }) => snapshot.names[slot] ?? ""),
      })),
      ...report
        .list()
        .filter(({ code }) => !codes.has(code))
        .map(({ code, severity, sentence, count, examples }) => ({
          ...{ code, severity, message: sentence, count, threshold: null, examples },
        })),
    ].sort(worstFirst);
    const splits = { none: 0, train: 0, val: 0, test: 0 };
    let objects = 0;
    for (const slot of slots) {
      splits[splitCodes[snapshot.split.at(slot)] ?? "none"]++;
      objects += snapshot.objectCount.at(slot);
    }
    return {
      format: format.name,
      numbers: { images: slots.length, objects, splits, classes: [...stock.tallies] },
      findings,
      gates: plan ? gateResults(plan.gates, shown) : [],
    };
  } finally {
    progress?.end();
    close();
  }
}

type Reading = {
  options: Options;
  report: Findings;
  step: () => void;
  means: (found: FoundItem) => boolean;
};

/** All images of a source. */
async function wholeStock(tree: FileTree, format: Format, { options, report, step, means }: Reading): Promise<Outcome> {
  const { pixels } = settings().limits;
  const reading = await format.read(tree, options, report);
  const checked = new CheckedSource(pixels, report);
  for await (const settled of settledItems(tree, reading, pixels, report, options, means)) {
    await checked.add(settled);
    step();
  }
  const snapshot = checked.snapshot(reading.classes);
  return { snapshot, slots: Uint32Array.from({ length: snapshot.length }, (_, slot) => slot) };
}

/** The images that a plan leaves of a source. */
async function plannedStock(
  tree: FileTree,
  format: Format,
  { means, ...reading }: Reading & { plan: Plan },
): Promise<Outcome> {
  const checked = new CheckedSource(settings().limits.pixels, reading.report, means);
  const source = await PlannedSource.read(tree, format, { ...reading, checked });
  try {
    return checked.outcome(source.classes, source.flow(reading.plan));
  } finally {
    source.close();
  }
}

/** `larder check`: prints and returns the exit status. */
export async function check(source: string, { json, ...options }: CheckedInput & { json?: boolean }): Promise<number> {
  const { format, numbers, findings, gates } = await checkSource(
    source,
    options,
    json ? undefined : progressBar("Checking"),
  );
  if (json) console.log(JSON.stringify({ numbers, findings, ...(options.plan ? { gates } : {}) }, null, 2));
  else {
    const words = (n: number) => n.toLocaleString("en-US");
    console.log(`${source}: ${format}, ${words(numbers.images)} images, ${words(numbers.objects)} objects\n`);
    printRows(
      ["class", "images", "objects"],
      numbers.classes.map(({ name, images, objects }) => [name, images, objects]),
    );
    for (const { severity, code, message, examples } of findings) {
      console.log(`${severity}  ${message}  [${code}]`);
      if (examples.length > 0) console.log(`         ${examples.join(" · ")}`);
    }
    printGates(gates);
  }
  const isClosed = gates.some(({ isOpen }) => !isOpen);
  return isClosed || findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
