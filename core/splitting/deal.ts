/** Deals images, or groups of them that stay together, into bins of given sizes. */
import { splitNames, type Split } from "../model/item";
import { uniform } from "../model/seeded";
import { apportion } from "./apportion";
import { inOrderOfDraws } from "./draw-order";

/** `key` identifies the image for good (its hash); `classes` maps what it holds to how often. */
export type Dealt = { key: string; classes: ReadonlyMap<string, number> };
export type Shares = Record<Split, number>;

/**
 * What images hold, as numbers: image n, known by `keys[n]`, holds the classes `classOf[starts[n]]` up to
 * `classOf[starts[n + 1] - 1]`, each an index in `names` and each once.
 */
export type Holdings = {
  keys: readonly string[];
  names: readonly string[];
  starts: ArrayLike<number>;
  classOf: ArrayLike<number>;
};

export type Dealing = {
  /** How many images each bin is to get; their sum is the number of images. */
  sizes: readonly number[];
  seed: number;
  /** By iterative stratification over classes; otherwise by plain shuffling. */
  evenly: boolean;
  /** Of each image the number of its group, from 0; null where each is its own. */
  groups: Int32Array | null;
};

function holdingsOf(images: readonly Dealt[]): Holdings {
  const indexes = new Map<string, number>();
  const starts = [0];
  const classOf: number[] = [];
  for (const { classes } of images) {
    for (const name of classes.keys()) {
      const index = indexes.get(name) ?? indexes.size;
      indexes.set(name, index);
      classOf.push(index);
    }
    starts.push(classOf.length);
  }
  return { keys: images.map(({ key }) => key), names: [...indexes.keys()], starts, classOf };
}

/** What is dealt as a whole: its images, and of each class how many of them hold it. */
type Units = {
  length: number;
  sizes: Uint32Array;
  /** Unit u holds `counts[at]` images of class `classOf[at]` for at from `starts[u]` to `starts[u + 1]`. */
  starts: Uint32Array;
  classOf: Uint32Array;
  counts: Uint32Array;
  /** What the seed draws for each; of a group, for the first of its images by key. */
  keys: readonly string[];
  ofImage: (image: number) => number;
};

function unitsOf({ keys, names, starts, classOf }: Holdings, groups: Int32Array | null): Units {
  if (groups === null) {
    return {
      length: keys.length,
      sizes: new Uint32Array(keys.length).fill(1),
      starts: new Uint32Array(starts),
      classOf: new Uint32Array(classOf),
      counts: new Uint32Array(classOf.length).fill(1),
      keys,
      ofImage: (image) => image,
    };
  }
  const members: number[][] = [];
  groups.forEach((group, image) => (members[group] ??= []).push(image));
  const unitStarts = [0];
  const [unitClasses, unitCounts]: [number[], number[]] = [[], []];
  const held = new Uint32Array(names.length);
  for (const images of members) {
    const met: number[] = [];
    for (const image of images)
      for (let at = starts[image] as number; at < (starts[image + 1] as number); at++) {
        const index = classOf[at] as number;
        if (held[index] === 0) met.push(index);
        held[index] = (held[index] as number) + 1;
      }
    for (const index of met) {
      unitClasses.push(index);
      unitCounts.push(held[index] as number);
      held[index] = 0;
    }
    unitStarts.push(unitClasses.length);
  }
  return {
    length: members.length,
    sizes: Uint32Array.from(members, (images) => images.length),
    starts: Uint32Array.from(unitStarts),
    classOf: Uint32Array.from(unitClasses),
    counts: Uint32Array.from(unitCounts),
    keys: members.map((images) =>
      images.reduce(
        (least, n) => ((keys[n] as string) < least ? (keys[n] as string) : least),
        keys[images[0] as number] as string,
      ),
    ),
    ofImage: (image) => groups[image] as number,
  };
}

/** For each class the units that hold it, in the order given. */
function unitsByClass({ length, starts, classOf }: Units, classes: number, order: Uint32Array): Uint32Array[] {
  const counts = new Uint32Array(classes);
  const total = starts[length] as number;
  for (let at = 0; at < total; at++) {
    const index = classOf[at] as number;
    counts[index] = (counts[index] as number) + 1;
  }
  const lists = Array.from(counts, (count) => new Uint32Array(count));
  const next = new Uint32Array(classes);
  for (const unit of order)
    for (let at = starts[unit] as number; at < (starts[unit + 1] as number); at++) {
      const index = classOf[at] as number;
      const place = next[index] as number;
      (lists[index] as Uint32Array)[place] = unit;
      next[index] = place + 1;
    }
  return lists;
}

/** The class that fewest unassigned units hold, of equals the first by name; −1 where none is held any more. */
function rarest(waiting: Int32Array, names: readonly string[]): number {
  let found = -1;
  for (let index = 0; index < waiting.length; index++) {
    const size = waiting[index] as number;
    if (size === 0) continue;
    const fewest = found < 0 ? Infinity : (waiting[found] as number);
    if (size < fewest || (size === fewest && (names[index] as string) < (names[found] as string))) found = index;
  }
  return found;
}

/** Units in the order of what the seed draws for each; where two draw the same, by key. */
function shuffle({ keys }: Units, seed: number): Uint32Array {
  const draws = new Float64Array(keys.length);
  for (let n = 0; n < draws.length; n++) draws[n] = uniform("deal", seed, keys[n] as string);
  return inOrderOfDraws(draws, (a, b) => ((keys[a] as string) < (keys[b] as string) ? -1 : 1));
}

/** The larger units first; those of one size stay in their order. */
const largerFirst = ({ sizes }: Units, order: Uint32Array): Uint32Array =>
  order.sort((a, b) => (sizes[b] as number) - (sizes[a] as number));

/** The bins as they fill up. */
class Bins {
  readonly room: Int32Array;
  readonly units: Uint32Array;
  readonly of: Int32Array;

  constructor(
    sizes: readonly number[],
    private readonly dealt: Units,
  ) {
    this.room = Int32Array.from(sizes);
    this.units = new Uint32Array(sizes.length);
    this.of = new Int32Array(dealt.length).fill(-1);
  }

  place(unit: number, bin: number): void {
    this.of[unit] = bin;
    this.room[bin] = (this.room[bin] as number) - (this.dealt.sizes[unit] as number);
    this.units[bin] = (this.units[bin] as number) + 1;
  }

  /**
   * Of the bins that have room for a unit the one that wants most, of equals the roomiest, of these the first. Where
   * none has room for all of it, the roomiest takes it.
   */
  choose(unit: number, wants: ArrayLike<number>, from: number): number {
    const size = this.dealt.sizes[unit] as number;
    let best = -1;
    for (let bin = 0; bin < this.room.length; bin++) {
      if ((this.room[bin] as number) < size) continue;
      if (best < 0) best = bin;
      else {
        const difference = (wants[from + bin] as number) - (wants[from + best] as number);
        const better =
          Math.abs(difference) > 1e-9 ? difference > 0 : (this.room[bin] as number) > (this.room[best] as number);
        if (better) best = bin;
      }
    }
    return best >= 0 ? best : this.roomiest();
  }

  roomiest(): number {
    let best = 0;
    for (let bin = 1; bin < this.room.length; bin++)
      if ((this.room[bin] as number) > (this.room[best] as number)) best = bin;
    return best;
  }

  /** Gives each bin that was to get something and got nothing the smallest unit of the fullest one that has several. */
  fillEmpty(sizes: readonly number[], order: Uint32Array): void {
    sizes.forEach((size, bin) => {
      if (size === 0 || (this.units[bin] as number) > 0) return;
      let from = -1;
      for (let other = 0; other < sizes.length; other++)
        if (
          (this.units[other] as number) > 1 &&
          (from < 0 || (this.room[other] as number) < (this.room[from] as number))
        )
          from = other;
      if (from < 0) return;
      for (let at = order.length - 1; at >= 0; at--) {
        const unit = order[at] as number;
        if (this.of[unit] !== from) continue;
        this.units[from] = (this.units[from] as number) - 1;
        this.room[from] = (this.room[from] as number) + (this.dealt.sizes[unit] as number);
        this.place(unit, bin);
        return;
      }
    });
  }
}

function dealEvenly(units: Units, names: readonly string[], order: Uint32Array, sizes: readonly number[], bins: Bins) {
  const lists = unitsByClass(units, names.length, order);
  const waiting = Int32Array.from(lists, (list) => list.length);
  const total = sizes.reduce((sum, size) => sum + size, 0);
  const images = new Float64Array(names.length);
  for (let at = 0; at < units.counts.length; at++) {
    const index = units.classOf[at] as number;
    images[index] = (images[index] as number) + (units.counts[at] as number);
  }
  /** How many more images of each class each bin wants: of class c and bin b at c · bins + b. */
  const wanted = new Float64Array(names.length * sizes.length);
  images.forEach((count, index) =>
    sizes.forEach((size, bin) => (wanted[index * sizes.length + bin] = total > 0 ? (size / total) * count : 0)),
  );
  const place = (unit: number, bin: number) => {
    bins.place(unit, bin);
    for (let at = units.starts[unit] as number; at < (units.starts[unit + 1] as number); at++) {
      const index = units.classOf[at] as number;
      waiting[index] = (waiting[index] as number) - 1;
      const want = index * sizes.length + bin;
      wanted[want] = (wanted[want] as number) - (units.counts[at] as number);
    }
  };
  for (let index = rarest(waiting, names); index >= 0; index = rarest(waiting, names))
    for (const unit of lists[index] as Uint32Array)
      if (bins.of[unit] === -1) place(unit, bins.choose(unit, wanted, index * sizes.length));
  for (const unit of order) if (bins.of[unit] === -1) place(unit, bins.choose(unit, bins.room, 0));
}

/**
 * Deals images into bins: the bin of each, in their order. Without groups sizes are exact; with groups none is torn, and
 * sizes are as near as larger ones first allow. Evenly: iterative stratification (Sechidis, Tsoumakas & Vlahavas, ECML
 * PKDD 2011) on image counts a class, rarest class first. Depends on the set of images, the sizes and the seed, not on
 * their order.
 */
export function dealInto(holdings: Holdings, { sizes, seed, evenly, groups }: Dealing): Int32Array {
  const units = unitsOf(holdings, groups);
  const shuffled = shuffle(units, seed);
  const order = groups === null ? shuffled : largerFirst(units, shuffled);
  const bins = new Bins(sizes, units);
  if (evenly) dealEvenly(units, holdings.names, order, sizes, bins);
  else if (groups !== null) for (const unit of order) bins.place(unit, bins.choose(unit, bins.room, 0));
  else {
    let bin = 0;
    for (const unit of order) {
      while ((bins.room[bin] as number) <= 0) bin++;
      bins.place(unit, bin);
    }
  }
  bins.fillEmpty(sizes, order);
  return Int32Array.from(holdings.keys, (_, image) => bins.of[units.ofImage(image)] as number);
}

/** Deals images into splits by shares, evenly over their classes. */
export function deal(images: readonly Dealt[], shares: Shares, seed: number): Map<string, Split> {
  const holdings = holdingsOf(images);
  const asked = splitNames.filter((split) => shares[split] > 0);
  const sizes = apportion(
    images.length,
    asked.map((split) => shares[split]),
  );
  const bins = dealInto(holdings, { sizes, seed, evenly: true, groups: null });
  return new Map(holdings.keys.map((key, n) => [key, asked[bins[n] as number] as Split]));
}
