/** Counts what comes out of prepare and augment over the labels themselves, moved for real. */
import { isIdentity } from "../geometry/transform";
import type { Split } from "../model/item";
import { splitNames } from "../model/item";
import type { Band, FlowStep } from "./flow";
import { outputsOf, preparedOutputs, type OutputContext, type PlannedImage, type PlannedOutput } from "./outputs";

type Bands = Map<Split, Band>;

function add(bands: Bands, split: Split, { objects, classes }: PlannedOutput): void {
  // A class may be called __proto__: what has no prototype keeps a number under that name too.
  const band = bands.get(split) ?? {
    split,
    images: 0,
    objects: 0,
    byClass: Object.create(null) as Record<string, number>,
  };
  bands.set(split, band);
  band.images++;
  band.objects += objects.length;
  for (const name of [...objects.map((object) => object.class), ...classes])
    band.byClass[name] = (band.byClass[name] ?? 0) + 1;
}

function inOrder(bands: Bands): Band[] {
  return splitNames.flatMap((split) => bands.get(split) ?? []);
}

function scaled(bands: Bands, factor: number): Bands {
  const times = (value: number) => Math.round(value * factor);
  return new Map(
    [...bands].map(([split, band]) => [
      split,
      {
        split,
        images: times(band.images),
        objects: times(band.objects),
        byClass: Object.fromEntries(Object.entries(band.byClass).map(([name, count]) => [name, times(count)])),
      },
    ]),
  );
}

export type OutputCounts = { steps: FlowStep[]; unchanged: number };

/**
 * The steps prepare, augment and pack over these images. Where they are a sample of `of` images, numbers are scaled up
 * and marked as an estimate.
 */
export async function countOutputs(
  images: AsyncIterable<{ image: PlannedImage; split: Split }> | Iterable<{ image: PlannedImage; split: Split }>,
  context: OutputContext,
  sampleOf?: { all: number; sampled: number },
): Promise<OutputCounts> {
  const prepared: Bands = new Map();
  const augmented: Bands = new Map();
  let unchanged = 0;
  const still = {
    ...context,
    plan: { ...context.plan, augment: { ...context.plan.augment, unchanged: "keep" as const } },
  };
  const leavesOut = context.plan.augment.unchanged === "leave-out";
  for await (const { image, split } of images) {
    for (const output of preparedOutputs(image, context)) add(prepared, split, output);
    for await (const output of outputsOf(image, split, still)) {
      const same = output.copy > 0 && isPrepared(output);
      if (same) unchanged++;
      if (!same || !leavesOut) add(augmented, split, output);
    }
  }
  const factor = sampleOf ? sampleOf.all / Math.max(1, sampleOf.sampled) : 1;
  const estimate = sampleOf
    ? { estimate: `worked out on ${sampleOf.sampled} of ${sampleOf.all} images; exact once it is built` }
    : {};
  const [first, last] = factor === 1 ? [prepared, augmented] : [scaled(prepared, factor), scaled(augmented, factor)];
  return {
    steps: [
      { step: "prepare", bands: inOrder(first), ...estimate },
      { step: "augment", bands: inOrder(last), ...estimate },
      { step: "pack", bands: inOrder(last), ...estimate },
    ],
    unchanged: Math.round(unchanged * factor),
  };
}

/** Whether no op changed a copy. */
export function isPrepared({ recipe }: PlannedOutput): boolean {
  return (
    recipe.effects.length === 0 &&
    recipe.parts.length === 1 &&
    isIdentity(recipe.warp) &&
    recipe.size.width === recipe.frame.width &&
    recipe.size.height === recipe.frame.height
  );
}
