import { sortOptions } from "@larder/core/formats/options";
import { Tally, type ClassCount } from "@larder/core/formats/tally";
import { Findings, type Finding } from "@larder/core/model/finding";
import { carriesLabels } from "@larder/core/model/item";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { openSource } from "@larder/server/files/open-source";
import { settings } from "@larder/server/settings";
import { whereTest } from "./where";
import { printFindings, printRows } from "./print";
import { progressBar, type Progress } from "./progress";
import { chooseFormat, settledItems } from "./settled-items";

export type Inspection = {
  format: string;
  images: number;
  labeledImages: number;
  objects: number;
  classes: ClassCount[];
  splits: Record<"train" | "val" | "test" | "none", number>;
  findings: Finding[];
};

/** Reads a source whole and says what it holds. Throws a Failure where it cannot be read at all. */
export async function inspectSource(
  source: string,
  from: string | undefined,
  options: readonly string[],
  progress?: Progress,
  where = "",
): Promise<Inspection> {
  const report = new Findings();
  const { limits } = settings();
  const { tree, close } = await openSource(source, limits, report);
  try {
    const format = await chooseFormat(tree, from, report);
    const { reading: chosen } = sortOptions(options, format);
    const means = await whereTest(where, () => format.read(tree, chosen, new Findings()));
    const reading = await format.read(tree, chosen, report);
    const tally = new Tally(reading.classes);
    let labeledImages = 0;
    progress?.total((await tree.entries()).length);
    for await (const { item } of settledItems(tree, reading, limits.pixels, report, chosen, means)) {
      tally.add(item);
      progress?.step();
      if (carriesLabels(item)) labeledImages++;
    }
    for (const [a, b] of lookAlikes(tally.classes().map(({ name }) => name)))
      report.add("class-similar", "", `"${a}" and "${b}"`);
    return {
      format: format.name,
      images: tally.images,
      labeledImages,
      objects: tally.objects,
      classes: tally.classes(),
      splits: { ...tally.splits },
      findings: report.list(),
    };
  } finally {
    progress?.end();
    close();
  }
}

/** `larder inspect`: prints and returns the exit status. */
export async function inspect(
  source: string,
  { from, option, json, where }: { from?: string; option: string[]; json?: boolean; where?: string },
): Promise<number> {
  const inspection = await inspectSource(source, from, option, json ? undefined : progressBar("Reading"), where);
  if (json) console.log(JSON.stringify(inspection, null, 2));
  else {
    const { format, images, labeledImages, objects, classes, splits, findings } = inspection;
    console.log(
      `${source}: ${format}, ${images.toLocaleString("en-US")} images, ${labeledImages.toLocaleString("en-US")} of them labeled, ${objects.toLocaleString("en-US")} objects`,
    );
    console.log(
      `splits: ${Object.entries(splits)
        .map(([split, count]) => `${split} ${count.toLocaleString("en-US")}`)
        .join(", ")}\n`,
    );
    if (classes.length > 0)
      printRows(
        ["class", "images", "objects"],
        classes.map((row) => [row.name, row.images, row.objects]),
      );
    printFindings(findings);
  }
  return inspection.findings.some(({ severity }) => severity === "error") ? 1 : 0;
}
