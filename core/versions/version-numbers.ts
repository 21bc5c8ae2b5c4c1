/** How much a data set holds, counted output by output. */
import type { Split } from "../model/item";

export type SplitNumbers = { images: number; objects: number };

export type VersionNumbers = {
  images: number;
  objects: number;
  bySplit: Partial<Record<Split, SplitNumbers>>;
  /** Objects, and images that have the class as a whole. */
  byClass: Record<string, number>;
};

export function noNumbers(): VersionNumbers {
  // A class may be called __proto__: what has no prototype keeps a number under that name too.
  return { images: 0, objects: 0, bySplit: {}, byClass: Object.create(null) as Record<string, number> };
}

type Counted = { split: Split | null; objects: readonly { class: string }[]; classes: readonly string[] };

/** Counts one output more; one of no split counts in the whole alone. */
export function countOutput(numbers: VersionNumbers, { split: name, objects, classes }: Counted): void {
  numbers.images++;
  numbers.objects += objects.length;
  if (name !== null) {
    const split = (numbers.bySplit[name] ??= { images: 0, objects: 0 });
    split.images++;
    split.objects += objects.length;
  }
  for (const of of [...objects.map((object) => object.class), ...classes])
    numbers.byClass[of] = (numbers.byClass[of] ?? 0) + 1;
}
