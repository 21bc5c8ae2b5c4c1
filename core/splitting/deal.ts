import { splitNames, type Split } from "../model/item";
import { apportion } from "./apportion";
import { uniform } from "./seeded";

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

/** For each class the images that hold it, in the order given. */
function imagesByClass({ names, starts, classOf }: Holdings, order: Uint32Array): Uint32Array[] {
  const counts = new Uint32Array(names.length);
  const total = starts[order.length] as number;
  for (let at = 0; at < total; at++) {
    const index = classOf[at] as number;
    counts[index] = (counts[index] as number) + 1;
  }
  const lists = Array.from(counts, (count) => new Uint32Array(count));
  const next = new Uint32Array(names.length);
  for (const image of order)
    for (let at = starts[image] as number; at < (starts[image + 1] as number); at++) {
      const index = classOf[at] as number;
      const place = next[index] as number;
      (lists[index] as Uint32Array)[place] = image;
      next[index] = place + 1;
    }
  return lists;
}

/** The class that fewest unassigned images hold, of equals the first by name; −1 where none is held any more. */
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

/** Images in the order of what the seed draws for each; where two draw the same, by key. */
function shuffle(keys: readonly string[], seed: number): Uint32Array {
  const draws = Float64Array.from(keys, (key) => uniform("deal", seed, key));
  return Uint32Array.from(keys, (_, n) => n).sort(
    (a, b) => (draws[a] as number) - (draws[b] as number) || ((keys[a] as string) < (keys[b] as string) ? -1 : 1),
  );
}

/**
 * Deals images into splits so that sizes are exactly the apportioned ones and every class is spread in proportion.
 * Iterative stratification (Sechidis, Tsoumakas & Vlahavas, ECML PKDD 2011) on image counts a class, rarest class first,
 * with split sizes as hard limits. Depends on the set of images, the shares and the seed, not on their order.
 */
export function deal(images: readonly Dealt[], shares: Shares, seed: number): Map<string, Split> {
  const holdings = holdingsOf(images);
  const splits = dealHoldings(holdings, shares, seed);
  return new Map(holdings.keys.map((key, n) => [key, splits[n] as Split]));
}

/** The same over holdings: the split of each image, in their order. */
export function dealHoldings(holdings: Holdings, shares: Shares, seed: number): Split[] {
  const { keys, names, starts, classOf } = holdings;
  const asked = splitNames.filter((split) => shares[split] > 0);
  const room = Int32Array.from(
    apportion(
      keys.length,
      asked.map((split) => shares[split]),
    ),
  );
  const order = shuffle(keys, seed);
  const lists = imagesByClass(holdings, order);
  const waiting = Int32Array.from(lists, (list) => list.length);
  const total = asked.reduce((sum, split) => sum + shares[split], 0);
  /** How many more images of each class each split wants: of class c and split s at c · splits + s. */
  const splits = asked.length;
  const wanted = new Float64Array(names.length * splits);
  lists.forEach((list, index) => {
    asked.forEach((split, s) => (wanted[index * splits + s] = (shares[split] / total) * list.length));
  });

  const assigned = new Array<Split>(keys.length);
  const done = new Uint8Array(keys.length);
  const place = (image: number, s: number) => {
    done[image] = 1;
    assigned[image] = asked[s] as Split;
    room[s] = (room[s] as number) - 1;
    for (let at = starts[image] as number; at < (starts[image + 1] as number); at++) {
      const index = classOf[at] as number;
      waiting[index] = (waiting[index] as number) - 1;
      const want = index * splits + s;
      wanted[want] = (wanted[want] as number) - 1;
    }
  };
  /** Of the splits with room the one that wants most, of equals the roomiest, of these the first. */
  const choose = (wants: ArrayLike<number>, from: number): number => {
    let best = -1;
    for (let s = 0; s < splits; s++) {
      if ((room[s] as number) <= 0) continue;
      if (best < 0) best = s;
      else {
        const difference = (wants[from + s] as number) - (wants[from + best] as number);
        const better = Math.abs(difference) > 1e-9 ? difference > 0 : (room[s] as number) > (room[best] as number);
        if (better) best = s;
      }
    }
    return best;
  };

  for (let index = rarest(waiting, names); index >= 0; index = rarest(waiting, names))
    for (const image of lists[index] as Uint32Array)
      if (done[image] === 0) place(image, choose(wanted, index * splits));
  for (const image of order) if (done[image] === 0) place(image, choose(room, 0));
  return assigned;
}
