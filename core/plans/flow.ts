/**
 * Runs a plan on a light stock: how many images and objects go in and come out of every step, before anything is built.
 */
import type { LabelState, Split } from "../model/item";
import { splitNames } from "../model/item";
import { renamed } from "../relabel/mapping";
import { dealHoldings } from "../splitting/deal";
import { LightStock } from "../stock/light-stock";
import type { Plan } from "./plan";

export const planSteps = ["stock", "select", "relabel", "split", "prepare", "augment", "pack"] as const;
export type PlanStep = (typeof planSteps)[number];

/** Numbers of one band of the flow; `split` is null while images are not dealt yet. */
export type Band = { split: Split | null; images: number; objects: number; byClass: Record<string, number> };
export type Flow = {
  steps: { step: PlanStep; bands: Band[] }[];
  assigned: Map<string, Split>;
  /** Splits that were asked for and got nothing. */
  emptySplits: Split[];
};

/** The images, by their places in the stock, that the plan's first step lets through. */
function selectImages(stock: LightStock, select: Plan["select"]): Uint32Array {
  const states = new Set<LabelState>(select.states);
  const deliveries = select.deliveries === null ? null : new Set(select.deliveries);
  const selected = new Uint32Array(stock.length);
  let count = 0;
  for (let n = 0; n < stock.length; n++)
    if (states.has(stock.states[n] as LabelState) && (deliveries?.has(stock.deliveries[n] as number) ?? true))
      selected[count++] = n;
  return selected.subarray(0, count);
}

/**
 * The chosen images with their classes renamed and left out; an image that loses all its labels becomes an empty one, or
 * goes.
 */
function relabelImages(stock: LightStock, chosen: Uint32Array, relabel: Plan["relabel"]): LightStock {
  const indexes = new Map<string, number>();
  /** Of each class its index under its new name, −1 where it is left out. */
  const targets = stock.names.map((name) => {
    const target = renamed(name, relabel);
    if (target === null) return -1;
    const index = indexes.get(target) ?? indexes.size;
    indexes.set(target, index);
    return index;
  });
  const out = new LightStock([...indexes.keys()]);
  const objects = new Uint32Array(indexes.size);
  const whole = new Uint8Array(indexes.size);
  const met: number[] = [];
  for (const n of chosen) {
    const [first, last] = [stock.starts.at(n), stock.starts.at(n + 1)];
    met.length = 0;
    for (let at = first; at < last; at++) {
      const target = targets[stock.classOf.at(at)] as number;
      if (target < 0) continue;
      if (objects[target] === 0 && whole[target] === 0) met.push(target);
      objects[target] = (objects[target] as number) + stock.objectCounts.at(at);
      whole[target] = (whole[target] as number) | stock.imageLevel.at(at);
    }
    const emptied = last > first && met.length === 0;
    if (emptied && relabel.emptied === "leave-out") continue;
    const state = emptied ? "empty" : (stock.states[n] as LabelState);
    out.addImage(stock.keys[n] as string, stock.deliveries[n] as number, stock.splits[n] as Split | null, state);
    for (const target of met) {
      out.addLabel(target, objects[target] as number, whole[target] === 1);
      objects[target] = 0;
      whole[target] = 0;
    }
  }
  return out;
}

/** Which split each image goes to. With `keep`, images without a split stay out of the data set. */
function splitImages(stock: LightStock, split: Plan["split"]): readonly (Split | null)[] {
  if (split.mode === "keep") return stock.splits;
  const { keys, names, starts, classOf } = stock;
  return dealHoldings({ keys, names, starts: starts.values, classOf: classOf.values }, split.ratio, split.seed);
}

type Tally = { images: number; objects: number; byClass: Float64Array };

const emptyTally = (classes: number): Tally => ({ images: 0, objects: 0, byClass: new Float64Array(classes) });

function addImage(tally: Tally, stock: LightStock, n: number): void {
  tally.images++;
  const last = stock.starts.at(n + 1);
  for (let at = stock.starts.at(n); at < last; at++) {
    const index = stock.classOf.at(at);
    const objects = stock.objectCounts.at(at);
    tally.objects += objects;
    tally.byClass[index] = (tally.byClass[index] as number) + objects + stock.imageLevel.at(at);
  }
}

function tallyOf(stock: LightStock, images: ArrayLike<number>): Tally {
  const tally = emptyTally(stock.names.length);
  for (let i = 0; i < images.length; i++) addImage(tally, stock, images[i] as number);
  return tally;
}

function bandOf(stock: LightStock, split: Split | null, { images, objects, byClass }: Tally, times = 1): Band {
  const held = stock.names.flatMap((name, index) => {
    const count = byClass[index] as number;
    return count > 0 ? [[name, count * times] as const] : [];
  });
  return { split, images: images * times, objects: objects * times, byClass: Object.fromEntries(held) };
}

export function runFlow(stock: LightStock, plan: Plan): Flow {
  const selected = selectImages(stock, plan.select);
  const relabeled = relabelImages(stock, selected, plan.relabel);
  const splits = splitImages(relabeled, plan.split);
  const assigned = new Map<string, Split>();
  const all = emptyTally(relabeled.names.length);
  const bySplit = new Map(splitNames.map((split) => [split, emptyTally(relabeled.names.length)]));
  for (let n = 0; n < relabeled.length; n++) {
    addImage(all, relabeled, n);
    const split = splits[n];
    if (!split) continue;
    assigned.set(relabeled.keys[n] as string, split);
    addImage(bySplit.get(split) as Tally, relabeled, n);
  }
  const asked = splitNames.filter((split) =>
    plan.split.mode === "keep" ? (bySplit.get(split)?.images ?? 0) > 0 : plan.split.ratio[split] > 0,
  );
  const bands = (trainTimes: number) =>
    asked.map((split) => bandOf(relabeled, split, bySplit.get(split) as Tally, split === "train" ? trainTimes : 1));
  const once = bands(1);
  const multiplied = bands(1 + plan.augment.copies);
  const everything = Uint32Array.from(stock.keys, (_, n) => n);
  return {
    steps: [
      { step: "stock", bands: [bandOf(stock, null, tallyOf(stock, everything))] },
      { step: "select", bands: [bandOf(stock, null, tallyOf(stock, selected))] },
      { step: "relabel", bands: [bandOf(relabeled, null, all)] },
      { step: "split", bands: once },
      { step: "prepare", bands: once },
      { step: "augment", bands: multiplied },
      { step: "pack", bands: multiplied },
    ],
    assigned,
    emptySplits: asked.filter((split) => bySplit.get(split)?.images === 0),
  };
}
