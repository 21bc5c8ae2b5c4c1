/**
 * The features of a collection's images and objects, laid beside its snapshot: what "looks like" and "stands out" are
 * worked out from. Held as bytes in one piece; where an image or an object has none, nothing is said of it.
 */
import { centresOf, fartherThanOwn } from "../learning/centres";
import { featureDistance } from "../learning/features";
import { placeOfBox } from "../learning/image-features";
import { measureNames, type PictureMeasures } from "../learning/measures";
import type { Snapshot } from "./snapshot";

/** What is worked out of one snapshot, for as long as neither it nor what is learned changes. */
type Aligned = { snapshot: Snapshot; revision: number; upTo: number; objects: Int32Array };
type Standing = {
  snapshot: Snapshot;
  revision: number;
  upTo: number;
  byClass: Map<number, Float32Array | null>;
  centres: Map<number, Float32Array> | null;
  images: Float32Array | null;
  measures: MeasureColumns | null;
};
export type MeasureColumns = Record<keyof PictureMeasures, Float64Array>;

export class Learned {
  /** The highest number a row had that was put in: rows made later have higher ones. */
  upTo = 0;
  private bytes = new Uint8Array(1 << 16);
  private view = new DataView(this.bytes.buffer);
  private used = 0;
  private readonly rows = new Map<
    number,
    { start: number; length: number; made: number; measures: PictureMeasures | null }
  >();
  private aligned: Aligned | null = null;
  private standing: Standing | null = null;

  /** Puts in the packed features of an image; those it had before are left behind. */
  put(image: number, packed: Uint8Array, made: number, measures: PictureMeasures | null = null): void {
    if (this.used + packed.length > this.bytes.length) {
      const grown = new Uint8Array(Math.ceil((this.used + packed.length) * 1.5));
      grown.set(this.bytes.subarray(0, this.used));
      this.bytes = grown;
      this.view = new DataView(grown.buffer);
    }
    this.bytes.set(packed, this.used);
    this.rows.set(image, { start: this.used, length: packed.length, made, measures });
    this.used += packed.length;
    this.upTo = Math.max(this.upTo, made);
  }

  /** The number of the row of the image in a slot; 0 where nothing is known of it. */
  madeOf(snapshot: Snapshot, slot: number): number {
    return this.rows.get(snapshot.ids.at(slot))?.made ?? 0;
  }

  /** What the pictures are like as a whole: each measure by the slot of its picture, NaN where it is not known. */
  measuresOf(snapshot: Snapshot): MeasureColumns {
    const standing = this.standingOf(snapshot);
    if (standing.measures) return standing.measures;
    const columns = Object.fromEntries(
      measureNames.map((name) => [name, new Float64Array(snapshot.length).fill(Number.NaN)]),
    ) as MeasureColumns;
    for (let slot = 0; slot < snapshot.length; slot++) {
      const known = this.rows.get(snapshot.ids.at(slot))?.measures;
      if (known) for (const name of measureNames) columns[name][slot] = known[name];
    }
    return (standing.measures = columns);
  }

  /** The same features, of images that go by other ids; of those that have none here, none. */
  under(ids: ReadonlyMap<number, number>): Learned {
    const other = new Learned();
    other.upTo = this.upTo;
    other.bytes = this.bytes;
    other.view = this.view;
    other.used = this.used;
    for (const [image, id] of ids) {
      const row = this.rows.get(image);
      if (row) other.rows.set(id, row);
    }
    return other;
  }

  get size(): number {
    return this.bytes.length + this.rows.size * 160;
  }

  /** Where the features of the image in a slot begin; -1 where it has none. */
  imagePlace(snapshot: Snapshot, slot: number): number {
    return this.rows.get(snapshot.ids.at(slot))?.start ?? -1;
  }

  /** Where the features of each object begin, in the order of the snapshot's objects; -1 where it has none. */
  private objectPlaces(snapshot: Snapshot): Int32Array {
    const { revision } = snapshot;
    const { aligned, upTo } = this;
    if (aligned?.snapshot === snapshot && aligned.revision === revision && aligned.upTo === upTo)
      return aligned.objects;
    const objects = new Int32Array(snapshot.objectClass.length).fill(-1);
    for (let slot = 0; slot < snapshot.length; slot++) {
      const row = this.rows.get(snapshot.ids.at(slot));
      if (!row) continue;
      const first = snapshot.firstObject.at(slot);
      for (let at = first; at < first + snapshot.objectCount.at(slot); at++)
        objects[at] = placeOfBox(
          this.view,
          row.start,
          row.length,
          [snapshot.x.at(at), snapshot.y.at(at), snapshot.boxWidth.at(at), snapshot.boxHeight.at(at)],
          at - first,
        );
    }
    this.aligned = { snapshot, revision, upTo, objects };
    return objects;
  }

  /** The features of all objects: where each begins in `bytes`, by its place in the snapshot; -1 where it has none. */
  objectFeatures(snapshot: Snapshot): { bytes: Uint8Array; objects: Int32Array } {
    return { bytes: this.bytes, objects: this.objectPlaces(snapshot) };
  }

  private standingOf(snapshot: Snapshot): Standing {
    const { revision } = snapshot;
    const { standing, upTo } = this;
    if (standing?.snapshot === snapshot && standing.revision === revision && standing.upTo === upTo) return standing;
    return (this.standing = {
      snapshot,
      revision,
      upTo,
      byClass: new Map(),
      centres: null,
      images: null,
      measures: null,
    });
  }

  /** The centre of every class, by its index: the mean of its objects that are in stock. */
  private classCentres(snapshot: Snapshot): Map<number, Float32Array> {
    return (this.standingOf(snapshot).centres ??= this.workOutCentres(snapshot));
  }

  private workOutCentres(snapshot: Snapshot): Map<number, Float32Array> {
    const all = this.objectPlaces(snapshot);
    const places = new Int32Array(all.length).fill(-1);
    for (let slot = 0; slot < snapshot.length; slot++) {
      if (snapshot.present.at(slot) === 0) continue;
      const first = snapshot.firstObject.at(slot);
      const end = first + snapshot.objectCount.at(slot);
      places.set(all.subarray(first, end), first);
    }
    return centresOf({ bytes: this.bytes, places, classOf: (object) => snapshot.objectClass.at(object) });
  }

  /** How far each object lies from the centre of its class (0…1), NaN where nothing is known. */
  objectsFromCentre(snapshot: Snapshot): Float32Array {
    return this.kept(snapshot, -1, () => {
      const places = this.objectPlaces(snapshot);
      const centres = this.classCentres(snapshot);
      return Float32Array.from(places, (place, at) => {
        const centre = centres.get(snapshot.objectClass.at(at));
        return place < 0 || !centre ? Number.NaN : featureDistance(this.bytes, place, centre, 0);
      });
    });
  }

  /**
   * For the objects of one class: how much nearer they lie to their own centre than to the nearest other class's; below
   * zero where another is nearer. NaN for all other objects.
   */
  objectsFromOthers(snapshot: Snapshot, classIndex: number): Float32Array {
    return this.kept(snapshot, classIndex, () =>
      this.fartherThanOwn(
        snapshot,
        this.objectPlaces(snapshot).map((place, at) => (snapshot.objectClass.at(at) === classIndex ? place : -1)),
      ),
    );
  }

  /** The same of every object, in the order of the snapshot's objects. */
  allFromOthers(snapshot: Snapshot): Float32Array {
    return this.fartherThanOwn(snapshot, this.objectPlaces(snapshot));
  }

  /** The same of the objects whose features begin at these places; NaN where that is -1, or it is not known. */
  private fartherThanOwn(snapshot: Snapshot, places: Int32Array): Float32Array {
    const centres = this.classCentres(snapshot);
    return fartherThanOwn({ bytes: this.bytes, places, classOf: (object) => snapshot.objectClass.at(object) }, centres);
  }

  private kept(snapshot: Snapshot, key: number, compute: () => Float32Array): Float32Array {
    const { byClass } = this.standingOf(snapshot);
    const known = byClass.get(key);
    if (known) return known;
    const values = compute();
    byClass.set(key, values);
    return values;
  }

  /** For each slot how far its image, or the object that stands out most on it, lies from its class; NaN if unknown. */
  imagesUnlikeTheirClass(snapshot: Snapshot): Float32Array {
    const standing = this.standingOf(snapshot);
    if (standing.images) return standing.images;
    const objects = this.objectsFromCentre(snapshot);
    const labeled: { place: number; id: number }[] = [];
    const classesOf = (slot: number) =>
      snapshot.classSet.at(slot) === 0 ? [] : snapshot.classesIn(snapshot.classSet.at(slot));
    for (let slot = 0; slot < snapshot.length; slot++) {
      const place = this.imagePlace(snapshot, slot);
      if (place < 0 || snapshot.present.at(slot) === 0) continue;
      for (const id of classesOf(slot)) labeled.push({ place, id });
    }
    const places = labeled.map(({ place }) => place);
    const centres = centresOf({ bytes: this.bytes, places, classOf: (nth) => labeled[nth]?.id as number });
    const values = new Float32Array(snapshot.length).fill(Number.NaN);
    for (let slot = 0; slot < snapshot.length; slot++) {
      let most = Number.NaN;
      const take = (value: number) => {
        if (!(value <= most)) most = Number.isNaN(value) ? most : value;
      };
      const first = snapshot.firstObject.at(slot);
      for (let at = first; at < first + snapshot.objectCount.at(slot); at++) take(objects[at] as number);
      const place = this.imagePlace(snapshot, slot);
      if (place >= 0)
        for (const id of classesOf(slot)) {
          const centre = centres.get(id);
          if (centre) take(featureDistance(this.bytes, place, centre, 0));
        }
      values[slot] = most;
    }
    return (standing.images = values);
  }

  /** For each slot how far its image lies from the nearest of some images (0…1); NaN where nothing is known of either. */
  imagesFrom(snapshot: Snapshot, images: readonly number[]): Float32Array {
    const wanted = images.flatMap((image) => {
      const row = this.rows.get(image);
      return row ? [row.start] : [];
    });
    return Float32Array.from({ length: snapshot.length }, (_, slot) => {
      const place = this.imagePlace(snapshot, slot);
      if (place < 0 || wanted.length === 0) return Number.NaN;
      return Math.min(...wanted.map((one) => featureDistance(this.bytes, place, this.bytes, one)));
    });
  }
}
