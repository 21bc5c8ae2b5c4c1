import type { ClassInfo, Item, Split } from "../model/item";

export type ClassCount = { name: string; images: number; objects: number };

/**
 * Counts a stream of items: images, states, objects, splits, and images and objects a class, in the source's own
 * order.
 */
export class Tally {
  images = 0;
  labeled = 0;
  empty = 0;
  unlabeled = 0;
  objects = 0;
  readonly splits: Record<Split | "none", number> = { train: 0, val: 0, test: 0, none: 0 };
  private readonly byClass = new Map<string, ClassCount>();

  constructor(classes: readonly ClassInfo[]) {
    for (const { name } of classes) this.of(name);
  }

  add(item: Pick<Item, "state" | "split" | "objects" | "classes">): void {
    this.images++;
    this[item.state]++;
    this.splits[item.split ?? "none"]++;
    this.objects += item.objects.length;
    for (const object of item.objects) this.of(object.class).objects++;
    for (const name of new Set([...item.objects.map((object) => object.class), ...item.classes]))
      this.of(name).images++;
  }

  of(name: string): ClassCount {
    const known = this.byClass.get(name) ?? { name, images: 0, objects: 0 };
    this.byClass.set(name, known);
    return known;
  }

  classes(): ClassCount[] {
    return [...this.byClass.values()];
  }
}
