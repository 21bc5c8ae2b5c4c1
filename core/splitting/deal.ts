import { splitNames, type Split } from "../model/item";
import { apportion } from "./apportion";
import { uniform } from "./seeded";

/** `key` identifies the image for good (its hash); `classes` maps what it holds to how often. */
export type Dealt = { key: string; classes: ReadonlyMap<string, number> };
export type Shares = Record<Split, number>;

/** What images hold, as numbers: of image n the classes `held[starts[n]]` … `held[starts[n + 1] - 1]`. */
type Holdings = { names: string[]; starts: Uint32Array; classOf: Uint32Array };

function holdingsOf(images: readonly Dealt[]): Holdings {
  const indexes = new Map<string, number>();
  const starts = new Uint32Array(images.length + 1);
  images.forEach(({ classes }, n) => (starts[n + 1] = (starts[n] as number) + classes.size));
  const classOf = new Uint32Array(starts[images.length] as number);
  let at = 0;
  for (const { classes } of images)
    for (const name of classes.keys()) {
      let index = indexes.get(name);
      if (index === undefined) indexes.set(name, (index = indexes.size));
      classOf[at++] = index;
    }
  return { names: [...indexes.keys()], starts, classOf };
}

/** For each class the images that hold it, in their order. */
function imagesByClass({ names, starts, classOf }: Holdings): Uint32Array[] {
  const counts = new Uint32Array(names.length);
  for (const index of classOf) counts[index] = (counts[index] as number) + 1;
  const lists = Array.from(counts, (count) => new Uint32Array(count));
  const next = new Uint32Array(names.length);
  for (let image = 0; image + 1 < starts.length; image++)
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
function shuffle(images: readonly Dealt[], seed: number): Dealt[] {
  const draws = Float64Array.from(images, ({ key }) => uniform("deal", seed, key));
  const byDraw = new Map<number, Dealt>();
  images.forEach((image, n) => byDraw.set(draws[n] as number, image));
  // Numbers alone sort many times as fast as images by their numbers; that two draw the same hardly ever happens.
  if (byDraw.size === images.length) return Array.from(draws.sort(), (draw) => byDraw.get(draw) as Dealt);
  return images
    .map((image) => ({ image, draw: uniform("deal", seed, image.key) }))
    .sort((a, b) => a.draw - b.draw || (a.image.key < b.image.key ? -1 : 1))
    .map(({ image }) => image);
}

/**
 * Deals images into splits so that sizes are exactly the apportioned ones and every class is spread in proportion.
 * Iterative stratification (Sechidis, Tsoumakas & Vlahavas, ECML PKDD 2011) on image counts a class, rarest class first,
 * with split sizes as hard limits. Depends on the set of images, the shares and the seed, not on their order.
 */
export function deal(images: readonly Dealt[], shares: Shares, seed: number): Map<string, Split> {
  const asked = splitNames.filter((split) => shares[split] > 0);
  const room = Int32Array.from(
    apportion(
      images.length,
      asked.map((split) => shares[split]),
    ),
  );
  const shuffled = shuffle(images, seed);
  const holdings = holdingsOf(shuffled);
  const { names, starts, classOf } = holdings;
  const lists = imagesByClass(holdings);
  const waiting = Int32Array.from(lists, (list) => list.length);
  const total = asked.reduce((sum, split) => sum + shares[split], 0);
  /** How many more images of each class each split wants: of class c and split s at c · splits + s. */
  const splits = asked.length;
  const wanted = new Float64Array(names.length * splits);
  lists.forEach((list, index) => {
    asked.forEach((split, s) => (wanted[index * splits + s] = (shares[split] / total) * list.length));
  });

  const assigned = new Map<string, Split>();
  const done = new Uint8Array(shuffled.length);
  const place = (image: number, s: number) => {
    done[image] = 1;
    assigned.set((shuffled[image] as Dealt).key, asked[s] as Split);
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
  for (let image = 0; image < shuffled.length; image++) if (done[image] === 0) place(image, choose(room, 0));
  return assigned;
}
