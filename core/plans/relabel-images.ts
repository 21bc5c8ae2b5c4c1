/** A plan's second step on a light stock: labels under their new names, and images that lose all of theirs. */
import type { LabelState, Split } from "../model/item";
import type { Relabeling } from "../relabel/relabeling";
import type { SelectableObject } from "../selection/predicate";
import { LightStock } from "../stock/light-stock";
import type { StockFacts } from "../stock/stock-facts";
import type { Plan } from "./plan";
import type { SelectedImages } from "./select-images";

/** The objects of the image at a place, as a selection looks at them. */
export type ObjectsOf = (n: number) => Iterable<SelectableObject>;

export type RelabeledImages = {
  stock: LightStock;
  /** Of each image its place in the stock before. */
  origins: Uint32Array;
  /** Places, in the stock before, of images that left because they lost all labels. */
  emptied: number[];
};

/** Classes by name, in the order in which they are met. */
class Names {
  readonly list: string[] = [];
  private readonly indexes = new Map<string, number>();

  indexOf(name: string): number {
    const known = this.indexes.get(name);
    if (known !== undefined) return known;
    this.indexes.set(name, this.list.length);
    return this.list.push(name) - 1;
  }
}

/** The labels of one image as they are gathered: of each class how many objects, and whether the image has it. */
class Gathered {
  /** The classes that were met, by their indexes. */
  private readonly met: number[] = [];
  /** Of each class how many objects; below 0 where it was not met. */
  private readonly objects: number[] = [];
  private readonly whole: boolean[] = [];

  get isEmpty(): boolean {
    return this.met.length === 0;
  }

  add(index: number, objects: number, whole: boolean): void {
    const held = this.objects[index] ?? -1;
    if (held < 0) this.met.push(index);
    this.objects[index] = Math.max(0, held) + objects;
    this.whole[index] = whole || (held >= 0 && (this.whole[index] as boolean));
  }

  /** Adds what was gathered to the image begun last, and forgets it. */
  moveTo(stock: LightStock): void {
    for (const index of this.met) {
      stock.addLabel(index, this.objects[index] as number, this.whole[index] as boolean);
      this.objects[index] = -1;
    }
    this.met.length = 0;
  }
}

export function relabelImages(
  stock: LightStock,
  { images }: SelectedImages,
  emptied: Plan["relabel"]["emptied"],
  relabeling: Relabeling,
  { objectsOf, facts }: { objectsOf: ObjectsOf; facts: StockFacts },
): RelabeledImages {
  const names = new Names();
  const out = new LightStock(names.list);
  const origins: number[] = [];
  const gone: number[] = [];
  const asImageClass = stock.names.map((name) => relabeling.imageClass(name));
  const objectwise = relabeling.looksAtObjects;
  const [starts, classOf, counts, imageLevel] = [
    stock.starts.used,
    stock.classOf.used,
    stock.objectCounts.used,
    stock.imageLevel.used,
  ];
  const gathered = new Gathered();
  for (const n of images) {
    const [first, last] = [starts[n] as number, starts[n + 1] as number];
    for (let at = first; at < last; at++) {
      const name = asImageClass[classOf[at] as number] ?? null;
      const objects = objectwise ? 0 : (counts[at] as number);
      const whole = imageLevel[at] === 1;
      if (name !== null && (objects > 0 || whole)) gathered.add(names.indexOf(name), objects, whole);
    }
    if (objectwise) {
      const size = facts.size(n);
      for (const object of objectsOf(n)) {
        const counted = relabeling.counted(object, size);
        if (counted) gathered.add(names.indexOf(counted.name), counted.as === "object" ? 1 : 0, counted.as === "image");
      }
    }
    const lost = last > first && gathered.isEmpty;
    if (lost && emptied === "leave-out") {
      gone.push(n);
      continue;
    }
    const state = lost ? "empty" : (stock.states[n] as LabelState);
    origins.push(n);
    out.addImage(
      stock.keys[n] as string,
      stock.deliveries[n] as number,
      stock.splits[n] as Split | null,
      state,
      stock.pinned[n],
    );
    gathered.moveTo(out);
  }
  return { stock: out, origins: Uint32Array.from(origins), emptied: gone };
}
