/** A plan's third step: which split each image goes to. */
import { Failure } from "../model/failure";
import { baseName, withoutExtension } from "../model/file-tree";
import { splitNames, type Split } from "../model/item";
import { apportion } from "../splitting/apportion";
import { dealInto, type Shares } from "../splitting/deal";
import { Groups } from "../splitting/groups";
import type { LightStock } from "../stock/light-stock";
import type { StockFacts } from "../stock/stock-facts";
import { groupPattern } from "./group-pattern";
import { holdingsOf } from "./holdings";
import { leaksBetween, type Leak } from "./leaks";
import type { Plan, Together } from "./plan";

export type GroupTally = {
  groups: number;
  largest: number;
  /** Groups that lie in several splits all the same, because their images stood there. */
  torn: number;
};

export type SplitImages = {
  /** Of each image its split; null stays out of the data set. */
  splits: (Split | null)[];
  /** How many images of each split are in it because they were. */
  kept: Record<Split, number>;
  /** Splits that were asked for and got nothing. */
  emptySplits: Split[];
  /** How many images each split was to get; null where that was not asked. */
  targets: Record<Split, number> | null;
  /** What holding images together costs; null where nothing holds. */
  together: GroupTally | null;
  leaks: Leak[];
};

export type SplitContext = {
  facts: StockFacts;
  /** Of each image its place in the stock that the facts know. */
  origins: ArrayLike<number>;
  /** The splits of an earlier version's images, by hash; null where the plan names none. */
  like: ReadonlyMap<string, Split> | null;
};

const none = (): Record<Split, number> => ({ train: 0, val: 0, test: 0 });

/** What an image is held together by, as a text; null where it is not. */
function bondOf(together: Exclude<Together, "near-copies">, stock: LightStock, { facts, origins }: SplitContext) {
  const at = (n: number) => origins[n] as number;
  if (together === "delivery") return (n: number) => (stock.deliveries[n] ? String(stock.deliveries[n]) : null);
  if (together === "camera") return (n: number) => facts.camera(at(n));
  if (together === "day")
    return (n: number) => {
      const taken = facts.taken(at(n));
      return Number.isNaN(taken) ? null : new Date(taken).toISOString().slice(0, 10);
    };
  if ("attribute" in together) return (n: number) => facts.attribute(at(n), together.attribute);
  const pattern = groupPattern(together.name);
  if (typeof pattern === "string") throw new Failure("plan-invalid", pattern);
  return (n: number) => {
    const base = baseName(facts.name(at(n)));
    return pattern(withoutExtension(base)) ?? pattern(base);
  };
}

function groupsOf(stock: LightStock, together: readonly Together[], context: SplitContext): Int32Array | null {
  if (together.length === 0) return null;
  const groups = new Groups(stock.length);
  for (const bond of together) {
    if (bond !== "near-copies") {
      groups.joinBy(bondOf(bond, stock, context));
      continue;
    }
    const places = new Map(Array.from(context.origins, (origin, n) => [origin, n]));
    for (let n = 0; n < stock.length; n++)
      for (const other of context.facts.nearCopies(context.origins[n] as number)) {
        const there = places.get(other);
        if (there !== undefined) groups.join(n, there);
      }
  }
  return groups.numbers();
}

/** The splits that images keep: of an earlier version, pinned ones, all, or none. */
function standing(stock: LightStock, { mode, stand }: Plan["split"], like: SplitContext["like"]): (Split | null)[] {
  return stock.splits.map((split, n) => {
    const before = like?.get(stock.keys[n] as string);
    if (before) return before;
    const stands = mode === "keep" || stand === "all" || (stand === "pinned" && (stock.pinned[n] as boolean));
    return split && stands ? split : null;
  });
}

/** Images that hold together with some that stand go where most of these are. */
function followGroups(splits: (Split | null)[], groups: Int32Array): void {
  const counts = new Map<number, Record<Split, number>>();
  splits.forEach((split, n) => {
    if (!split) return;
    const group = groups[n] as number;
    const count = counts.get(group) ?? none();
    count[split]++;
    counts.set(group, count);
  });
  splits.forEach((split, n) => {
    const count = split ? undefined : counts.get(groups[n] as number);
    if (count) splits[n] = splitNames.reduce((best, other) => (count[other] > count[best] ? other : best));
  });
}

function tallyGroups(splits: readonly (Split | null)[], groups: Int32Array): GroupTally {
  const members = new Map<number, { count: number; in: Set<Split> }>();
  splits.forEach((split, n) => {
    const group = members.get(groups[n] as number) ?? { count: 0, in: new Set() };
    members.set(groups[n] as number, group);
    group.count++;
    if (split) group.in.add(split);
  });
  const several = [...members.values()].filter(({ count }) => count > 1);
  return {
    groups: several.length,
    largest: Math.max(0, ...several.map(({ count }) => count)),
    torn: several.filter((group) => group.in.size > 1).length,
  };
}

/** The shares to deal by: too few images for every split that is asked for go to those that hold nothing yet. */
function sharesFor(images: number, ratio: Shares, kept: Record<Split, number>): Shares {
  const asked = splitNames.filter((split) => ratio[split] > 0);
  const bare = asked.filter((split) => kept[split] === 0);
  if (images >= asked.length || bare.length === 0 || bare.length === asked.length) return ratio;
  const share = (split: Split) => (bare.includes(split) ? ratio[split] : 0);
  return { train: share("train"), val: share("val"), test: share("test") };
}

/** How many of the images that are dealt each split gets. */
function sizesFor(dealt: number, { mode, ratio, counts }: Plan["split"], kept: Record<Split, number>): number[] {
  if (mode !== "counts") {
    const shares = sharesFor(dealt, ratio, kept);
    return apportion(
      dealt,
      splitNames.map((split) => shares[split]),
    );
  }
  const [val, test] = [Math.max(0, counts.val - kept.val), Math.max(0, counts.test - kept.test)];
  if (val + test > dealt)
    throw new Failure(
      "split-counts",
      `val and test ask for ${counts.val + counts.test} images, and only ${dealt + kept.val + kept.test} can be dealt to them.`,
    );
  return [dealt - val - test, val, test];
}

function byDate(taken: number, { val, test }: Plan["split"]["dates"]): Split {
  if (test && taken >= Date.parse(test)) return "test";
  return val && taken >= Date.parse(val) ? "val" : "train";
}

export function splitImages(stock: LightStock, plan: Pick<Plan, "split" | "seed">, context: SplitContext): SplitImages {
  const { split } = plan;
  const splits = standing(stock, split, context.like);
  const groups = groupsOf(stock, split.together, context);
  if (groups && split.mode !== "keep") followGroups(splits, groups);
  const kept = none();
  for (const stands of splits) if (stands) kept[stands]++;
  const rest = splits.flatMap((stands, n) => (stands === null ? [n] : []));
  let targets: SplitImages["targets"] = null;
  let asked: Split[] = [];
  const dealing = () => ({ seed: plan.seed, evenly: split.evenly, groups: groups && renumbered(groups, rest) });
  if (split.mode === "by-date") {
    for (const n of rest) splits[n] = byDate(context.facts.taken(context.origins[n] as number), split.dates);
    asked = splitNames.filter((name) => name === "train" || split.dates[name] !== undefined);
  } else if (split.mode === "folds") {
    const sizes = apportion(rest.length, Array<number>(split.folds.of).fill(1));
    const bins = dealInto(holdingsOf(stock, rest), { sizes, ...dealing() });
    rest.forEach((n, at) => (splits[n] = bins[at] === split.folds.this ? "val" : "train"));
    const val = sizes[split.folds.this] ?? 0;
    targets = { train: kept.train + rest.length - val, val: kept.val + val, test: kept.test };
    asked = ["train", "val"];
  } else if (split.mode !== "keep") {
    const sizes = sizesFor(rest.length, split, kept);
    const bins = dealInto(holdingsOf(stock, rest), { sizes, ...dealing() });
    rest.forEach((n, at) => (splits[n] = splitNames[bins[at] as number] as Split));
    targets = none();
    for (const [at, name] of splitNames.entries()) targets[name] = kept[name] + (sizes[at] as number);
    // A split is asked for where there is anything to deal to it, or nothing at all.
    const wants = split.mode === "counts" ? { train: 0, ...split.counts } : split.ratio;
    if (rest.length > 0 || stock.length === 0) asked = splitNames.filter((name) => wants[name] > 0);
  }
  const filled = none();
  for (const name of splits) if (name) filled[name]++;
  return {
    splits,
    kept,
    emptySplits: splitNames.filter((name) => asked.includes(name) && filled[name] === 0),
    targets,
    together: groups ? tallyGroups(splits, groups) : null,
    leaks: leaksBetween(splits, context.origins, context.facts),
  };
}

/** The groups of some images, numbered from 0 anew. */
function renumbered(groups: Int32Array, images: readonly number[]): Int32Array {
  const known = new Map<number, number>();
  return Int32Array.from(images, (n) => {
    const group = groups[n] as number;
    const number = known.get(group) ?? known.size;
    known.set(group, number);
    return number;
  });
}
