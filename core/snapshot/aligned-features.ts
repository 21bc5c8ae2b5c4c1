/**
 * Which features a snapshot's objects have, and where those of each class lie: kept up as labels and features change by
 * what changed alone, for an act on a few images is not to cost a look at a million objects.
 */
import { FeatureSums, type Centres } from "../learning/centres";
import type { FeatureStore } from "../learning/feature-store";
import { placeOfBox } from "../learning/image-features";
import type { Snapshot } from "./snapshot";

/** Where the packed features of the image in a slot begin, -1 where it has none, and how long they are. */
export type PackedFeatures = { start: (slot: number) => number; length: (slot: number) => number };

const grown = (numbers: Int32Array<ArrayBuffer>, length: number): Int32Array<ArrayBuffer> => {
  if (length <= numbers.length) return numbers;
  const longer = new Int32Array(Math.ceil(length * 1.25)).fill(-1);
  longer.set(numbers);
  return longer;
};

/** Objects with their classes, of which some are counted in or out. */
class Batch {
  private readonly places: number[] = [];
  private readonly classes: number[] = [];

  push(place: number, index: number): void {
    this.places.push(place);
    this.classes.push(index);
  }

  addTo(sums: FeatureSums, sign: 1 | -1): void {
    sums.add(Int32Array.from(this.places), Int32Array.from(this.classes), sign);
  }
}

export class AlignedFeatures {
  /** Where the features of each object begin, in the order of the snapshot's objects; -1 where it has none. */
  objects = new Int32Array(0);
  private readonly sums: FeatureSums;
  /** What was counted in last of the image in each slot: its first object, how many, and where its features begin. */
  private first = new Int32Array(0);
  private count = new Int32Array(0);
  private start = new Int32Array(0);
  private revision = -1;
  private upTo = -1;

  constructor(
    private readonly snapshot: Snapshot,
    private readonly store: FeatureStore,
  ) {
    this.sums = new FeatureSums(store);
  }

  /** The centre of every class, by its index: the mean of its objects that are in stock. */
  centres(): Centres {
    return this.sums.means();
  }

  get bytes(): number {
    return [this.objects, this.first, this.count, this.start].reduce((sum, numbers) => sum + numbers.byteLength, 0);
  }

  /** Brings it to the snapshot as it is, and to the features up to a number. */
  bringUp(packed: PackedFeatures, upTo: number): void {
    const { snapshot } = this;
    if (this.revision === snapshot.revision && this.upTo === upTo) return;
    this.objects = grown(this.objects, snapshot.objectClass.length);
    this.first = grown(this.first, snapshot.length);
    this.count = grown(this.count, snapshot.length);
    this.start = grown(this.start, snapshot.length);
    const [out, into] = [new Batch(), new Batch()];
    const [firsts, counts, present] = [snapshot.firstObject.used, snapshot.objectCount.used, snapshot.present.used];
    const isAsLearned = this.upTo === upTo;
    for (let slot = 0; slot < firsts.length; slot++) {
      const first = firsts[slot] as number;
      // Of an image in the bin nothing counts.
      const count = present[slot] === 1 ? (counts[slot] as number) : 0;
      const isAsItWas = first === this.first[slot] && count === this.count[slot];
      // A slot is one image's for good: where nothing was learned, it need not be asked for.
      if (isAsItWas && isAsLearned) continue;
      const start = count === 0 ? -1 : packed.start(slot);
      if (isAsItWas && start === this.start[slot]) continue;
      this.countOut(slot, out);
      this.countIn(slot, { first, count, start, length: packed.length(slot) }, into);
    }
    out.addTo(this.sums, -1);
    into.addTo(this.sums, 1);
    [this.revision, this.upTo] = [snapshot.revision, upTo];
  }

  private countOut(slot: number, out: Batch): void {
    const [first, count] = [this.first[slot] as number, this.count[slot] as number];
    const classes = this.snapshot.objectClass.values;
    for (let at = first; at < first + count; at++) {
      const place = this.objects[at] as number;
      if (place >= 0) out.push(place, classes[at] as number);
      this.objects[at] = -1;
    }
  }

  private countIn(
    slot: number,
    { first, count, start, length }: { first: number; count: number; start: number; length: number },
    into: Batch,
  ): void {
    [this.first[slot], this.count[slot], this.start[slot]] = [first, count, start];
    if (start < 0) return;
    const { bytes } = this.store;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const { x, y, boxWidth, boxHeight, objectClass } = this.snapshot;
    for (let at = first; at < first + count; at++) {
      const box = [x.values[at], y.values[at], boxWidth.values[at], boxHeight.values[at]] as [
        number,
        number,
        number,
        number,
      ];
      const place = placeOfBox(view, start, length, box, at - first);
      this.objects[at] = place;
      if (place >= 0) into.push(place, objectClass.values[at] as number);
    }
  }
}
