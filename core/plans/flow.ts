/**
 * Runs a plan on a light stock: how many images and objects go in and come out of every step, before anything is built.
 * Where pixels' places decide what stays of labels, the last steps are counted over the labels themselves (count-outputs).
 */
import { frameCount } from "../imaging/frames";
import { opNamed } from "../imaging/ops/registry";
import { splitNames, type Split } from "../model/item";
import { Relabeling } from "../relabel/relabeling";
import type { KnownAttributes } from "../selection/bind";
import type { LightStock } from "../stock/light-stock";
import type { StockFacts } from "../stock/stock-facts";
import { isOneOf, isSomeOf, opsIn, type AugmentStep } from "./augmentations";
import { drawCopy } from "./draw-copy";
import { copyNumbers } from "./outputs";
import type { Plan } from "./plan";
import { relabelImages, type ObjectsOf } from "./relabel-images";
import { repeatRare } from "./repeat-rare";
import { selectImages } from "./select-images";
import { splitImages, type SplitImages } from "./split-images";
import { StepResults } from "./step-results";

export const planSteps = ["stock", "select", "relabel", "split", "prepare", "augment", "pack"] as const;
/** More outputs than this are built only when somebody says so once more. */
export const manyOutputs = 1_000_000;
/** Up to so many outputs labels are moved for each, to count what is left of them. */
export const mostMoved = 100_000;
export type PlanStep = (typeof planSteps)[number];
/** Numbers of one band of the flow; `split` is null while images are not dealt yet. */
export type Band = { split: Split | null; images: number; objects: number; byClass: Record<string, number> };
export type FlowStep = { step: PlanStep; bands: Band[]; estimate?: string };

export type Flow = Pick<SplitImages, "emptySplits" | "kept" | "targets" | "together" | "leaks"> & {
  steps: FlowStep[];
  assigned: Map<string, Split>;
  /** How often training images go out, where that is more than once. */
  repeats: Map<string, number>;
  /** Copies that no op changed; they go out or not as the plan says. */
  unchanged: number;
  /** How many images come out. */
  outputs: number;
  /** Whether the labels themselves must be moved to know what stays of them: then prepare and later steps are missing. */
  needsLabels: boolean;
  /** Classes after relabeling, in their order. */
  classes: string[];
  /** Why an image that is not assigned leaves, by its hash: the step and the rule. */
  left: ReadonlyMap<string, { step: PlanStep; reason: string }>;
  relabeling: Relabeling;
  /** Classes under the floor, whose labels leave. */
  dropped: Set<string>;
};

export type FlowInput = {
  stock: LightStock;
  facts: StockFacts;
  objectsOf: ObjectsOf;
  /** The classes in the order of the stock. */
  classNames: readonly string[];
  attributes: KnownAttributes;
  /** Says by its place whether the plan's `where` means an image; null where that is everything. */
  means: ((n: number) => boolean) | null;
  like: ReadonlyMap<string, Split> | null;
  /** Keeps what steps came to, for plans that begin alike; leave it out where a plan is run once. */
  results?: StepResults;
};

type Tally = { images: number; objects: number; byClass: Float64Array };
const emptyTally = (classes: number): Tally => ({ images: 0, objects: 0, byClass: new Float64Array(classes) });

/** Adds images of a stock to tallies, each as often as it goes out. */
function adderOf(stock: LightStock): (tally: Tally, n: number, times?: number) => void {
  const [starts, classOf] = [stock.starts.used, stock.classOf.used];
  const [objectCounts, imageLevel] = [stock.objectCounts.used, stock.imageLevel.used];
  return (tally, n, times = 1) => {
    tally.images += times;
    const last = starts[n + 1] as number;
    for (let at = starts[n] as number; at < last; at++) {
      const index = classOf[at] as number;
      const objects = objectCounts[at] as number;
      tally.objects += objects * times;
      tally.byClass[index] = (tally.byClass[index] as number) + (objects + (imageLevel[at] as number)) * times;
    }
  };
}

function tallyOf(stock: LightStock, images: ArrayLike<number>, dropped: ReadonlySet<string> = new Set()): Tally {
  const tally = emptyTally(stock.names.length);
  const addImage = adderOf(stock);
  for (let i = 0; i < images.length; i++) addImage(tally, images[i] as number);
  if (dropped.size === 0) return tally;
  stock.names.forEach((name, index) => {
    if (dropped.has(name)) tally.byClass[index] = 0;
  });
  let objects = 0;
  for (let i = 0; i < images.length; i++) {
    const n = images[i] as number;
    for (let at = stock.starts.at(n); at < stock.starts.at(n + 1); at++)
      if (!dropped.has(stock.names[stock.classOf.at(at)] as string)) objects += stock.objectCounts.at(at);
  }
  return { ...tally, objects };
}

function bandOf(stock: LightStock, split: Split | null, { images, objects, byClass }: Tally): Band {
  const held = stock.names.flatMap((name, index) => {
    const count = byClass[index] as number;
    return count > 0 ? [[name, count] as const] : [];
  });
  return { split, images, objects, byClass: Object.fromEntries(held) };
}

/** Geometry that keeps every object whole. */
const wholeGeometry = new Set(["flip-sideways", "flip-over", "quarter-turn"]);

/** Whether a plan's pixels may cut, cover or add objects, so that only their shapes tell what stays. */
export function needsLabels({ prepare, augment }: Plan): boolean {
  const { crop, tiles, resize } = prepare;
  if (tiles || resize?.mode === "fill" || Object.values(crop).some((share) => share > 0)) return true;
  if (augment.copies === 0 && !augment.rare) return false;
  return opsIn(augment.do).some(({ op }) => {
    const { kind } = opNamed(op);
    if (kind === "geometry") return !wholeGeometry.has(op);
    return kind === "sources" || op === "erase";
  });
}

/** Of a training image's copies how many no op changes: they are drawn beforehand and can be counted. */
function unchangedCopies(plan: Plan, key: string, numbers: readonly number[]): number {
  // What is drawn does not depend on the frame's size, only the maps do.
  const frame = { width: 640, height: 640 };
  return numbers.filter(
    (copy) => copy > 0 && !drawCopy(plan.augment.do, frame, { seed: plan.seed, key, tile: "", copy }).changes,
  ).length;
}

/**
 * Whether some op changes every copy: it always happens, and its values are drawn from a stretch of real numbers, of which
 * none is drawn that changes nothing, or it has none.
 */
function changesEvery(steps: readonly AugmentStep[]): boolean {
  return steps.some((step) => {
    if (step.chance < 1 || isOneOf(step) || isSomeOf(step)) return false;
    const { kind, name, parameters } = opNamed(step.op);
    if (name === "mosaic" || wholeGeometry.has(name)) return true;
    if (kind === "sources" || kind === "patch") return name === "erase";
    const numbers = Object.entries(parameters).flatMap(([key, parameter]) =>
      parameter.kind === "number" ? [{ parameter, value: step[key] }] : [],
    );
    const drawn = numbers.filter(
      ({ parameter, value }) => Array.isArray(value) && !parameter.whole && value[0] < value[1],
    );
    return kind === "geometry"
      ? drawn.length > 0
      : numbers.every(({ parameter }) => parameter.neutral === undefined) || drawn.length > 0;
  });
}

/** With more outputs than this copies are drawn for some of the images only, to tell how many nothing changes. */
const mostDrawn = 200_000;

export function runFlow(
  { stock, facts, objectsOf, classNames, attributes, means, like, results = new StepResults() }: FlowInput,
  plan: Plan,
): Flow {
  const { seed, select, relabel, split } = plan;
  const selected = results.of("select", [seed, select], () => selectImages(stock, plan, means));
  const { relabeling, relabeled } = results.of("relabel", [seed, select, relabel], () => {
    const made = new Relabeling(relabel, attributes, selected.dropped);
    return {
      relabeling: made,
      relabeled: relabelImages(stock, selected, relabel.emptied, made, { objectsOf, facts }),
    };
  });
  const after = relabeled.stock;
  const { splits, kept, emptySplits, targets, together, leaks } = results.of(
    "split",
    [seed, select, relabel, split],
    () => splitImages(after, plan, { facts, origins: relabeled.origins, like }),
  );
  const repeats = repeatRare(after, splits, plan);
  const assigned = new Map<string, Split>();
  const empty = () => emptyTally(after.names.length);
  const all = empty();
  const bySplit = new Map(splitNames.map((split) => [split, empty()]));
  const augmented = new Map(splitNames.map((split) => [split, empty()]));
  const moved = needsLabels(plan);
  const never = plan.augment.do.length > 0 && changesEvery(plan.augment.do);
  const training = splits.reduce((sum, split) => sum + (split === "train" ? 1 : 0), 0);
  const copies = training * copyNumbers(plan.augment, 1).length;
  /** Of so many training images one is drawn for. */
  const stride = Math.max(1, Math.ceil(copies / mostDrawn));
  let unchanged = 0;
  let outputs = 0;
  let met = 0;
  const addImage = adderOf(after);
  const once = [0];
  const numbersFor = new Map<number, number[]>();
  const numbersOf = (times: number) => {
    const known = numbersFor.get(times) ?? copyNumbers(plan.augment, times);
    numbersFor.set(times, known);
    return known;
  };
  for (let n = 0; n < after.length; n++) {
    addImage(all, n);
    const split = splits[n];
    if (!split) continue;
    const key = after.keys[n] as string;
    assigned.set(key, split);
    addImage(bySplit.get(split) as Tally, n);
    const frames = plan.prepare.tiles ? frameCount(facts.size(relabeled.origins[n] as number), plan.prepare) : 1;
    const numbers = split === "train" ? numbersOf(repeats.get(key) ?? 1) : once;
    outputs += numbers.length * frames;
    if (moved) continue;
    const draws = split === "train" && !never && met++ % stride === 0;
    const same = draws ? Math.min(numbers.length, stride * unchangedCopies(plan, key, numbers)) : 0;
    unchanged += same;
    const times = numbers.length - (plan.augment.unchanged === "leave-out" ? same : 0);
    outputs -= numbers.length - times;
    addImage(augmented.get(split) as Tally, n, times);
  }
  // A split that holds nothing and was not asked for is no band.
  const shown = splitNames.filter((split) => (bySplit.get(split)?.images ?? 0) > 0 || emptySplits.includes(split));
  const dealt = shown.map((split) => bandOf(after, split, bySplit.get(split) as Tally));
  const multiplied = shown.map((split) => bandOf(after, split, augmented.get(split) as Tally));
  const everything = Uint32Array.from(stock.keys, (_, n) => n);
  const steps: FlowStep[] = [
    { step: "stock", bands: [bandOf(stock, null, tallyOf(stock, everything))] },
    { step: "select", bands: [bandOf(stock, null, tallyOf(stock, selected.images, selected.dropped))] },
    { step: "relabel", bands: [bandOf(after, null, all)] },
    { step: "split", bands: dealt },
  ];
  const estimate =
    stride > 1 && !never && plan.augment.unchanged === "leave-out"
      ? { estimate: `copies were drawn for one training image in ${stride}; exact once it is built` }
      : {};
  if (!moved)
    steps.push(
      { step: "prepare", bands: dealt },
      { step: "augment", bands: multiplied, ...estimate },
      { step: "pack", bands: multiplied, ...estimate },
    );
  const occurring = new Set(Object.keys(steps[2]?.bands[0]?.byClass ?? {}));
  return {
    steps,
    assigned,
    repeats,
    emptySplits,
    kept,
    targets,
    together,
    leaks,
    unchanged,
    outputs,
    needsLabels: moved,
    classes: relabeling.classList(classNames, occurring),
    left: reasons(stock, selected.left, relabeled.emptied, after, splits),
    relabeling,
    dropped: selected.dropped,
  };
}

function reasons(
  stock: LightStock,
  left: ReadonlyMap<number, string>,
  emptied: readonly number[],
  after: LightStock,
  splits: readonly (Split | null)[],
): Flow["left"] {
  const out = new Map<string, { step: PlanStep; reason: string }>();
  for (const [n, reason] of left) out.set(stock.keys[n] as string, { step: "select", reason });
  for (const n of emptied)
    out.set(stock.keys[n] as string, { step: "relabel", reason: "emptied: it loses all its labels" });
  splits.forEach((split, n) => {
    if (!split) out.set(after.keys[n] as string, { step: "split", reason: "keep: it has no split" });
  });
  return out;
}
