/**
 * Which classes the objects of each image have, as sets: images that show the same classes share one. There are far fewer
 * sets than objects, so that what asks for classes alone looks at each set once.
 */
import { Column } from "../columns/column";
import type { Snapshot } from "./snapshot";

export class ObjectClassSets {
  /** By slot the place of its set in `sets`; 0 where an image has no object. */
  readonly codes = new Column(Uint32Array);
  /** The indexes of the classes of each set, ascending. */
  readonly sets: (readonly number[])[] = [[]];
  private readonly known = new Map<string, number>([["", 0]]);
  /** Where the objects lay that a slot's set was made of: an image whose objects change gets others, behind all there are. */
  private readonly firsts = new Column(Uint32Array);
  private readonly counts = new Column(Uint32Array);

  /** Brings the sets up to what the images of a snapshot have by now. */
  update(snapshot: Snapshot): void {
    for (let slot = this.codes.length; slot < snapshot.length; slot++)
      for (const column of [this.codes, this.firsts, this.counts]) column.push(0);
    const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
    const [knownFirsts, knownCounts] = [this.firsts.values, this.counts.values];
    for (let slot = 0; slot < firsts.length; slot++) {
      const [first, count] = [firsts[slot] as number, counts[slot] as number];
      if (knownFirsts[slot] === first && knownCounts[slot] === count) continue;
      this.codes.values[slot] = this.codeOf(snapshot.objectClass.values.subarray(first, first + count));
      [knownFirsts[slot], knownCounts[slot]] = [first, count];
    }
  }

  private codeOf(classes: Uint32Array): number {
    const sorted = [...new Set(classes)].sort((a, b) => a - b);
    const text = sorted.join(" ");
    const known = this.known.get(text);
    if (known !== undefined) return known;
    const code = this.sets.push(sorted) - 1;
    this.known.set(text, code);
    return code;
  }
}

const setsOf = new WeakMap<Snapshot, ObjectClassSets>();

/** The classes of the objects of each image as they are now. */
export function objectClassSets(snapshot: Snapshot): ObjectClassSets {
  const sets = setsOf.get(snapshot) ?? new ObjectClassSets();
  setsOf.set(snapshot, sets);
  sets.update(snapshot);
  return sets;
}
