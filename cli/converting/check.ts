import { takeStock } from "@larder/core/checks/stocktake";
import { tallyClasses, type ClassTally } from "@larder/core/checks/tally";
import { sortOptions } from "@larder/core/formats/options";
import { Failure } from "@larder/core/model/failure";
import { Findings, worstFirst, type Severity } from "@larder/core/model/finding";
import { splitCodes } from "@larder/core/snapshot/snapshot";
import { lightStockOf } from "@larder/core/snapshot/light-stock-of";
import { openSource } from "@larder/server/files/open-source";
import { settings } from "@larder/server/settings";
import { CheckedSource } from "./checked-source";
import { printRows } from "./print";
import { progressBar, type Progress } from "./progress";
import { chooseFormat, settledItems } from "./settled-items";
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

/** The stocktake of a source. Throws a Failure where it cannot be read at all. */
export async function checkSource(
  source: string,
  { from, option, where = "" }: { from?: string | undefined; option: readonly string[]; where?: string | undefined },
  progress?: Progress,
): Promise<{ format: string; numbers: StockNumbers; findings: CheckedFinding[] }> {
  const report = new Findings();
  const { pixels } = settings().limits;
  const { tree, close } = await openSource(source, settings().limits, report);
  try {
    const format = await chooseFormat(tree, from, report);
    const { reading: chosen } = sortOptions(option, format);
    const means = await whereTest(where, () => format.read(tree, chosen, new Findings()));
    const reading = await format.read(tree, chosen, report);
    const checked = new CheckedSource(pixels);
    progress?.total((await tree.entries()).length);
    for await (const settled of settledItems(tree, reading, pixels, report, chosen, means)) {
      try {
        await checked.add(settled);
      } catch (error) {
        // Its head could be read, its pixels cannot.
        if (!(error instanceof Failure)) throw error;
        report.add("image-unreadable", settled.item.path, error.message);
      }
      progress?.step();
    }
    const snapshot = checked.snapshot(reading.classes);
    const slots = Uint32Array.from({ length: snapshot.length }, (_, slot) => slot);
    const names = snapshot.classes.map(({ name }) => name);
    const tallies = tallyClasses(lightStockOf(snapshot), names);
    const shown = takeStock({ snapshot, slots, tallies, learned: snapshot.learned });
    const codes = new Set(shown.map(({ code }) => code));
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
    for (const slot of slots) splits[splitCodes[snapshot.split.at(slot)] ?? "none"]++;
    const numbers = { images: snapshot.length, objects: snapshot.objectClass.length, splits, classes: tallies };
    return { format: format.name, numbers, findings };
  } finally {
    progress?.end();
    close();
  }
}

/** `larder check`: prints and returns the exit status. */
export async function check(
  source: string,
  { json, ...options }: { from?: string; option: string[]; json?: boolean; where?: string },
): Promise<number> {
  const { format, numbers, findings } = await checkSource(source, options, json ? undefined : progressBar("Checking"));
  if (json) console.log(JSON.stringify({ numbers, findings }, null, 2));
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
  }
  return findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
