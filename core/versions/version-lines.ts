/** The lines of a version: a plan's outputs over the images of a stock, which come in the order of their hashes. */
import { leavesBytes } from "../imaging/recipe";
import type { Findings } from "../model/finding";
import type { ClassInfo, Item, Licence, Split } from "../model/item";
import type { Flow } from "../plans/flow";
import { outputsOf, type OutputContext, type PlannedImage } from "../plans/outputs";
import type { Plan } from "../plans/plan";
import type { ManifestLine } from "./manifest";
import { keptExtension, outputName, OutputNames } from "./output-names";

/** An image of the stock with its labels as they are there; `extension` is the kind of its bytes. */
export type StockImage = PlannedImage &
  Pick<Item, "split"> & { name: string; extension: string; licence: Licence | null };

/** The kind of file an output is, by the kind of its source. */
export type ExtensionOf = (source: string, recipe: ManifestLine["recipe"]) => string;

/** An image with its labels relabeled; what is lost on the way goes to the report. */
export function relabeledImage(image: StockImage, { relabeling }: Flow, report?: Findings): StockImage {
  return { ...image, ...relabeling.labels(image, image.size, report, image.name) };
}

/** The training images in the order of their hashes. */
export function trainingPool(assigned: ReadonlyMap<string, Split>): string[] {
  return [...assigned].flatMap(([key, split]) => (split === "train" ? [key] : [])).sort();
}

/** What outputs are worked out with; `load` gives an image of the stock by its hash. */
export function outputContext(
  plan: Plan,
  flow: Flow,
  classes: readonly ClassInfo[],
  load: (key: string) => Promise<StockImage>,
): OutputContext {
  return {
    plan,
    classes: new Map(classes.map((info) => [info.name, info])),
    repeats: flow.repeats,
    pool: trainingPool(flow.assigned),
    partner: async (key) => relabeledImage(await load(key), flow),
  };
}

/**
 * The manifest's lines. `extensionOf` says what an output's file is; `report` gets what relabeling loses. Tiles and copies
 * of one image follow each other.
 */
export async function* versionLines(
  images: AsyncIterable<StockImage>,
  {
    plan,
    flow,
    context,
    extensionOf,
    report,
  }: {
    plan: Plan;
    flow: Flow;
    context: OutputContext;
    extensionOf: ExtensionOf;
    report?: Findings;
  },
): AsyncGenerator<{ line: ManifestLine; image: StockImage }> {
  const { augment, prepare, pack } = plan;
  const names = new OutputNames(pack.names, augment.copies > 0 || augment.rare !== null || prepare.tiles !== null);
  for await (const stocked of images) {
    const split = flow.assigned.get(stocked.key);
    if (!split) continue;
    const image = relabeledImage(stocked, flow, report);
    const { key, name, extension, captions, fields, licence } = image;
    const stem = names.claim({ name, key, split });
    for await (const { copy, tile, size, state, recipe, objects, classes } of outputsOf(image, split, context)) {
      const kind = extensionOf(extension, recipe);
      const stays = leavesBytes(recipe) && kind === extension;
      const line: ManifestLine = {
        source: key,
        copy,
        ...(tile ? { tile: [tile.row, tile.column] as [number, number] } : {}),
        name: outputName(stem, tile, copy, stays ? keptExtension(name, kind) : kind),
        split,
        state,
        size,
        made: !stays,
        recipe,
        objects,
        classes,
        captions,
        fields,
        ...(licence ? { licence } : {}),
      };
      yield { line, image };
    }
  }
}
