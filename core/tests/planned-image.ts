/** Images as plans take them, and what their outputs are worked out with, made up for tests. */
import type { ClassInfo } from "../model/item";
import { outputsOf, type OutputContext, type PlannedImage, type PlannedOutput } from "../plans/outputs";
import { planSchema, type Plan } from "../plans/plan";
import type { Split } from "../model/item";

export function plannedImage(more: Partial<PlannedImage> = {}): PlannedImage {
  return {
    key: "ab".repeat(32),
    size: { width: 200, height: 100 },
    orientation: 1,
    state: "labeled",
    objects: [],
    classes: [],
    captions: [],
    fields: {},
    ...more,
  };
}

export function contextOf(
  plan: Plan,
  {
    classes = [],
    others = [],
    repeats = new Map(),
  }: {
    classes?: readonly ClassInfo[];
    others?: readonly PlannedImage[];
    repeats?: ReadonlyMap<string, number>;
  } = {},
): OutputContext {
  return {
    plan,
    classes: new Map(classes.map((info) => [info.name, info])),
    repeats,
    pool: others.map(({ key }) => key).sort(),
    partner: (key) => Promise.resolve(others.find((other) => other.key === key) ?? plannedImage({ key })),
  };
}

/** Everything that comes out of an image. */
export async function outputsOn(
  image: PlannedImage,
  plan: Parameters<typeof planSchema.parse>[0],
  split: Split = "train",
  more: Parameters<typeof contextOf>[1] = {},
): Promise<PlannedOutput[]> {
  const outputs: PlannedOutput[] = [];
  for await (const output of outputsOf(image, split, contextOf(planSchema.parse(plan), more))) outputs.push(output);
  return outputs;
}
