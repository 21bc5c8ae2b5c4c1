/**
 * The features of a collection's images and objects, laid beside its snapshot: what "looks like" and "stands out" are
 * worked out from. Where an image or an object has none, nothing is said of it.
 */
import { Column } from "../columns/column";
import { centreNumbers, FeatureSums, type Centres } from "../learning/centres";
import { FeatureStore } from "../learning/feature-store";
import { measureNames, type PictureMeasures } from "../learning/measures";
import { AlignedFeatures } from "./aligned-features";
import { imagesByClass, type GroupedFeatures } from "./grouped-features";
import type { Snapshot } from "./snapshot";

export type MeasureColumns = Record<keyof PictureMeasures, Float64Array>;

/** What looks are compared with: the centre of their own group, or also the nearest of another one. */
export type Comparison = "own" | "other";

/** What is worked out of images once, for as long as neither they nor what is learned change. */
type Standing = {
  snapshot: Snapshot;
  revision: number;
  upTo: number;
  unlike: Float32Array | null;
  measures: MeasureColumns | null;
};

/** What is known of each image, by rows: where its features begin, their length, the number of the row that had them. */
class Rows {
  readonly start = new Column(Float64Array);
  readonly length = new Column(Uint32Array);
  readonly made = new Column(Float64Array);
  readonly measures = new Column(Float32Array);

  /** Puts one in place of a row, or behind all others; its number. */
  put(start: number, length: number, made: number, measures: PictureMeasures | null, row = this.start.length): number {
    if (row === this.start.length) {
      for (const column of [this.start, this.length, this.made]) column.push(0);
      for (const _ of measureNames) this.measures.push(Number.NaN);
    }
    this.start.set(row, start);
    this.length.set(row, length);
    this.made.set(row, made);
    measureNames.forEach((name, n) => this.measures.set(row * measureNames.length + n, measures?.[name] ?? Number.NaN));
    return row;
  }

  get bytes(): number {
    return this.start.bytes + this.length.bytes + this.made.bytes + this.measures.bytes;
  }
}

export class Learned {
  /** The highest number a row had that was put in: rows made later have higher ones. */
  upTo = 0;
  private readonly rowOf = new Map<number, number>();
  private readonly alignments = new WeakMap<Snapshot, AlignedFeatures>();
  private standing: Standing | null = null;

  constructor(
    private readonly store = new FeatureStore(),
    private readonly rows = new Rows(),
  ) {}

  /** Makes room for so many bytes of features more. */
  expect(bytes: number): void {
    this.store.expect(bytes);
  }

  /** Puts in the packed features of an image; those it had before are left behind. */
  put(image: number, packed: Uint8Array, made: number, measures: PictureMeasures | null = null): void {
    const start = this.store.append(packed);
    this.rowOf.set(image, this.rows.put(start, packed.length, made, measures, this.rowOf.get(image)));
    this.upTo = Math.max(this.upTo, made);
  }

  /** The number of the row of the image in a slot; 0 where nothing is known of it. */
  madeOf(snapshot: Snapshot, slot: number): number {
    const row = this.rowOf.get(snapshot.ids.at(slot));
    return row === undefined ? 0 : this.rows.made.at(row);
  }

  /** What the pictures are like as a whole: each measure by the slot of its picture, NaN where it is not known. */
  measuresOf(snapshot: Snapshot): MeasureColumns {
    const standing = this.standingOf(snapshot);
    if (standing.measures) return standing.measures;
    const columns = Object.fromEntries(
      measureNames.map((name) => [name, new Float64Array(snapshot.length).fill(Number.NaN)]),
    ) as MeasureColumns;
    for (let slot = 0; slot < snapshot.length; slot++) {
      const row = this.rowOf.get(snapshot.ids.at(slot));
      if (row === undefined) continue;
      measureNames.forEach((name, n) => {
        columns[name][slot] = this.rows.measures.at(row * measureNames.length + n);
      });
    }
    return (standing.measures = columns);
  }

  /** The same features, of images that go by other ids; of those that have none here, none. */
  under(ids: ReadonlyMap<number, number>): Learned {
    const other = new Learned(this.store, this.rows);
    other.upTo = this.upTo;
    for (const [image, id] of ids) {
      const row = this.rowOf.get(image);
      if (row !== undefined) other.rowOf.set(id, row);
    }
    return other;
  }

  get size(): number {
    return this.store.bytes.length + this.rows.bytes + this.rowOf.size * 60;
  }

  /** What is kept of how features lie beside the objects of a snapshot, in bytes. */
  alignedBytes(snapshot: Snapshot): number {
    return this.alignments.get(snapshot)?.bytes ?? 0;
  }

  /** Where the features of the image in a slot begin; -1 where it has none. */
  imagePlace(snapshot: Snapshot, slot: number): number {
    const row = this.rowOf.get(snapshot.ids.at(slot));
    return row === undefined ? -1 : this.rows.start.at(row);
  }

  private alignedWith(snapshot: Snapshot): AlignedFeatures {
    const aligned = this.alignments.get(snapshot) ?? new AlignedFeatures(snapshot, this.store);
    this.alignments.set(snapshot, aligned);
    const length = (slot: number) => this.rows.length.at(this.rowOf.get(snapshot.ids.at(slot)) ?? -1);
    aligned.bringUp({ start: (slot) => this.imagePlace(snapshot, slot), length }, this.upTo);
    return aligned;
  }

  /** The features of all objects: where each begins in `bytes`, by its place in the snapshot; -1 where it has none. */
  objectFeatures(snapshot: Snapshot): { bytes: Uint8Array; objects: Int32Array } {
    const { objects } = this.alignedWith(snapshot);
    return { bytes: this.store.bytes, objects: objects.subarray(0, snapshot.objectClass.length) };
  }

  private standingOf(snapshot: Snapshot): Standing {
    const { revision } = snapshot;
    const { standing, upTo } = this;
    if (standing?.snapshot === snapshot && standing.revision === revision && standing.upTo === upTo) return standing;
    return (this.standing = { snapshot, revision, upTo, unlike: null, measures: null });
  }

  /** Objects as things of their classes. `objects`: by their places in the snapshot. */
  private ofTheirClasses(snapshot: Snapshot, objects: ArrayLike<number>): GroupedFeatures {
    const { objects: all } = this.alignedWith(snapshot);
    const classes = snapshot.objectClass.values;
    const [places, groups] = [new Int32Array(objects.length), new Int32Array(objects.length)];
    for (let n = 0; n < objects.length; n++) {
      places[n] = all[objects[n] as number] as number;
      groups[n] = classes[objects[n] as number] as number;
    }
    return { places, groups };
  }

  /** How far each of some objects lies from the centre of its class (0 … 1), NaN where nothing is known. */
  objectsFromCentre(snapshot: Snapshot, objects: ArrayLike<number>): Float32Array {
    return this.compare(this.ofTheirClasses(snapshot, objects), this.alignedWith(snapshot).centres(), "own");
  }

  /**
   * How much nearer each of some objects lies to its own class's centre than to the nearest other class's; below zero
   * where another is nearer. NaN where nothing is known.
   */
  objectsFromOthers(snapshot: Snapshot, objects: ArrayLike<number>): Float32Array {
    return this.compare(this.ofTheirClasses(snapshot, objects), this.alignedWith(snapshot).centres(), "other");
  }

  /** The same of anything, by the centres of the groups that `all` fall into. */
  fromGroups(things: GroupedFeatures, all: GroupedFeatures, against: Comparison): Float32Array {
    const sums = new FeatureSums(this.store);
    sums.add(all.places, all.groups);
    return this.compare(things, sums.means(), against);
  }

  private compare({ places, groups }: GroupedFeatures, centres: Centres, against: Comparison): Float32Array {
    const own = centreNumbers(centres, groups);
    return against === "own"
      ? this.store.fromOwn(places, own, centres.means)
      : this.store.fartherThanOwn(places, own, centres.means);
  }

  /** For each slot how far its image, or the object that stands out most on it, lies from its class; NaN if unknown. */
  imagesUnlikeTheirClass(snapshot: Snapshot): Float32Array {
    const standing = this.standingOf(snapshot);
    return (standing.unlike ??= this.workOutUnlike(snapshot));
  }

  private workOutUnlike(snapshot: Snapshot): Float32Array {
    const { firstObject, objectCount } = snapshot;
    const everyObject = new Uint32Array(snapshot.objectClass.length);
    for (let at = 0; at < everyObject.length; at++) everyObject[at] = at;
    const objects = this.objectsFromCentre(snapshot, everyObject);
    const images = imagesByClass(snapshot, (slot) => this.imagePlace(snapshot, slot));
    const values = new Float32Array(snapshot.length).fill(Number.NaN);
    const raise = (slot: number, value: number) => {
      if (!Number.isNaN(value) && !(value <= (values[slot] as number))) values[slot] = value;
    };
    this.fromGroups(images, images, "own").forEach((value, n) => raise(images.slots[n] as number, value));
    for (let slot = 0; slot < snapshot.length; slot++) {
      const first = firstObject.values[slot] as number;
      const end = first + (objectCount.values[slot] as number);
      for (let at = first; at < end; at++) raise(slot, objects[at] as number);
    }
    return values;
  }

  /** For each slot how far its image lies from the nearest of some images (0 … 1); NaN where nothing is known of either. */
  imagesFrom(snapshot: Snapshot, images: readonly number[]): Float32Array {
    const wanted = Int32Array.from(
      images.flatMap((image) => {
        const row = this.rowOf.get(image);
        return row === undefined ? [] : [this.rows.start.at(row)];
      }),
    );
    const places = new Int32Array(snapshot.length);
    for (let slot = 0; slot < places.length; slot++) places[slot] = this.imagePlace(snapshot, slot);
    return this.store.fromNearest(places, wanted);
  }
}
