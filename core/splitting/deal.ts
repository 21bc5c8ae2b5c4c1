import { splitNames, type Split } from "../model/item";
import { apportion } from "./apportion";
import { uniform } from "./seeded";

/** `key` identifies the image for good (its hash); `classes` maps what it holds to how often. */
export type Dealt = { key: string; classes: ReadonlyMap<string, number> };
export type Shares = Record<Split, number>;

/**
 * Deals images into splits so that sizes are exactly the apportioned ones and every class is spread in proportion.
 * Iterative stratification (Sechidis, Tsoumakas & Vlahavas, ECML PKDD 2011) on image counts a class, rarest class
 * first,
 * with split sizes as hard limits. Depends on the set of images, the shares and the seed, not on their order.
 */
export function deal(images: readonly Dealt[], shares: Shares, seed: number): Map<string, Split> {
  const asked = splitNames.filter((split) => shares[split] > 0);
  const sizes = apportion(
    images.length,
    asked.map((split) => shares[split]),
  );
  const room = new Map(asked.map((split, index) => [split, sizes[index] as number]));
  const shuffled = images
    .map((image) => ({ image, draw: uniform("deal", seed, image.key) }))
    .sort((a, b) => a.draw - b.draw || (a.image.key < b.image.key ? -1 : 1));

  const waiting = new Map<string, Set<number>>();
  shuffled.forEach(({ image }, index) => {
    for (const name of image.classes.keys()) {
      const set = waiting.get(name) ?? new Set();
      set.add(index);
      waiting.set(name, set);
    }
  });
  const total = asked.reduce((sum, split) => sum + shares[split], 0);
  const wanted = new Map<string, Map<Split, number>>();
  for (const [name, set] of waiting) {
    wanted.set(name, new Map(asked.map((split) => [split, (shares[split] / total) * set.size])));
  }

  const assigned = new Map<string, Split>();
  const place = (index: number, split: Split) => {
    const { image } = shuffled[index] as (typeof shuffled)[number];
    assigned.set(image.key, split);
    room.set(split, (room.get(split) ?? 0) - 1);
    for (const name of image.classes.keys()) {
      waiting.get(name)?.delete(index);
      const wants = wanted.get(name);
      wants?.set(split, (wants.get(split) ?? 0) - 1);
    }
  };
  const choose = (wants: (split: Split) => number): Split => {
    const open = asked.filter((split) => (room.get(split) ?? 0) > 0);
    const best = open.reduce((a, b) => {
      const difference = wants(b) - wants(a);
      if (Math.abs(difference) > 1e-9) return difference > 0 ? b : a;
      return (room.get(b) ?? 0) > (room.get(a) ?? 0) ? b : a;
    });
    return best;
  };

  for (;;) {
    let rarest: string | null = null;
    for (const [name, set] of waiting) {
      if (set.size === 0) continue;
      const fewest = rarest === null ? Infinity : (waiting.get(rarest)?.size ?? Infinity);
      if (set.size < fewest || (set.size === fewest && rarest !== null && name < rarest)) rarest = name;
    }
    if (rarest === null) break;
    const wants = wanted.get(rarest) as Map<Split, number>;
    for (const index of [...(waiting.get(rarest) as Set<number>)].sort((a, b) => a - b))
      place(
        index,
        choose((split) => wants.get(split) ?? 0),
      );
  }
  shuffled.forEach(({ image }, index) => {
    if (!assigned.has(image.key))
      place(
        index,
        choose((split) => room.get(split) ?? 0),
      );
  });
  return assigned;
}
