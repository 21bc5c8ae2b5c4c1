/**
 * Runs a plan on a light stock: how many images and objects go in and come out of every step, before anything is built.
 */
import type { LabelState, Split } from "../model/item";
import { splitNames } from "../model/item";
import { renamed } from "../relabel/mapping";
import { unchangedCopies } from "../imaging/transform";
import { dealHoldings, type Holdings, type Shares } from "../splitting/deal";
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
  /** How many images of each split are in it because they were. */
  kept: Record<Split, number>;
  /** Copies that no op changed; they go out or not as the plan says. */
  unchanged: number;
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
    const split = stock.splits[n] as Split | null;
    out.addImage(stock.keys[n] as string, stock.deliveries[n] as number, split, state, stock.pinned[n]);
    for (const target of met) {
      out.addLabel(target, objects[target] as number, whole[target] === 1);
      objects[target] = 0;
      whole[target] = 0;
    }
  }
  return out;
}

/** What some of a stock's images hold, as dealing takes it. */
function holdingsOf({ keys, names, starts, classOf }: LightStock, images: readonly number[]): Holdings {
  const holdings = { keys: images.map((n) => keys[n] as string), names, starts: [0], classOf: [] as number[] };
  for (const n of images) {
    for (let at = starts.at(n); at < starts.at(n + 1); at++) holdings.classOf.push(classOf.at(at));
    holdings.starts.push(holdings.classOf.length);
  }
  return holdings;
}

/** The shares to deal by: too few images for every split that is asked for go to those that hold nothing yet. */
function sharesFor(images: number, ratio: Shares, kept: Record<Split, number>): Shares {
  const asked = splitNames.filter((split) => ratio[split] > 0);
  const bare = asked.filter((split) => kept[split] === 0);
  if (images >= asked.length || bare.length === 0 || bare.length === asked.length) return ratio;
  const share = (split: Split) => (bare.includes(split) ? ratio[split] : 0);
  return { train: share("train"), val: share("val"), test: share("test") };
}

type Splitting = { splits: (Split | null)[]; kept: Record<Split, number>; dealt: number };

/** Which split each image goes to. With the mode `keep`, images without a split stay out of the data set. */
function splitImages(stock: LightStock, { mode, stand, ratio, seed }: Plan["split"]): Splitting {
  const kept = { train: 0, val: 0, test: 0 };
  const splits = stock.splits.map((split, n) => {
    const stands = mode === "keep" || stand === "all" || (stand === "pinned" && (stock.pinned[n] as boolean));
    if (!split || !stands) return null;
    kept[split]++;
    return split;
  });
  if (mode === "keep") return { splits, kept, dealt: 0 };
  const rest = splits.flatMap((split, n) => (split === null ? [n] : []));
  dealHoldings(holdingsOf(stock, rest), sharesFor(rest.length, ratio, kept), seed).forEach(
    (split, i) => (splits[rest[i] as number] = split),
  );
  return { splits, kept, dealt: rest.length };
}

type Tally = { images: number; objects: number; byClass: Float64Array };

const emptyTally = (classes: number): Tally => ({ images: 0, objects: 0, byClass: new Float64Array(classes) });

/** Adds an image as often as it goes out. */
function addImage(tally: Tally, stock: LightStock, n: number, times = 1): void {
  tally.images += times;
  const last = stock.starts.at(n + 1);
  for (let at = stock.starts.at(n); at < last; at++) {
    const index = stock.classOf.at(at);
    const objects = stock.objectCounts.at(at);
    tally.objects += objects * times;
    tally.byClass[index] = (tally.byClass[index] as number) + (objects + stock.imageLevel.at(at)) * times;
  }
}

function tallyOf(stock: LightStock, images: ArrayLike<number>): Tally {
  const tally = emptyTally(stock.names.length);
  for (let i = 0; i < images.length; i++) addImage(tally, stock, images[i] as number);
  return tally;
}

function bandOf(stock: LightStock, split: Split | null, { images, objects, byClass }: Tally): Band {
  const held = stock.names.flatMap((name, index) => {
    const count = byClass[index] as number;
    return count > 0 ? [[name, count] as const] : [];
  });
  return { split, images, objects, byClass: Object.fromEntries(held) };
}

export function runFlow(stock: LightStock, plan: Plan): Flow {
  const selected = selectImages(stock, plan.select);
  const relabeled = relabelImages(stock, selected, plan.relabel);
  const { splits, kept, dealt } = splitImages(relabeled, plan.split);
  const assigned = new Map<string, Split>();
  const empty = () => emptyTally(relabeled.names.length);
  const all = empty();
  const bySplit = new Map(splitNames.map((split) => [split, empty()]));
  const augmented = empty();
  let unchanged = 0;
  for (let n = 0; n < relabeled.length; n++) {
    addImage(all, relabeled, n);
    const split = splits[n];
    if (!split) continue;
    const key = relabeled.keys[n] as string;
    assigned.set(key, split);
    addImage(bySplit.get(split) as Tally, relabeled, n);
    if (split !== "train") continue;
    const same = unchangedCopies(plan, key);
    unchanged += same;
    const copies = plan.augment.copies - (plan.augment.unchanged === "leave-out" ? same : 0);
    addImage(augmented, relabeled, n, 1 + copies);
  }
  // A split is asked for where something is in it already, or where there is anything to deal to it, or nothing at all.
  const deals = plan.split.mode === "ratio" && (dealt > 0 || relabeled.length === 0);
  const asked = splitNames.filter((split) => kept[split] > 0 || (deals && plan.split.ratio[split] > 0));
  const once = asked.map((split) => bandOf(relabeled, split, bySplit.get(split) as Tally));
  const multiplied = once.map((band) => (band.split === "train" ? bandOf(relabeled, "train", augmented) : band));
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
    kept,
    unchanged,
  };
}
