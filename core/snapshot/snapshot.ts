/**
 * The stock of a collection as columns of numbers: what facets, selections, flows, checks and class counts read. About
 * forty bytes an object and two hundred an image. Images keep their slots, in ascending order of their ids, for as long as the snapshot
 * lives; objects of an image lie next to each other, and those that an image no longer has are left behind until the
 * snapshot is built anew.
 */
import { z } from "zod";
import type { kindsOfFields } from "../model/field-kinds";
import { attributeValueSchema, labelStates, splitNames } from "../model/item";
import type { AttributeValue, LabelState, Split } from "../model/item";
import type { SelectableObject } from "../selection/predicate";
import type { AttributeSchema } from "../model/attribute-schema";
import type { KeypointPair } from "../model/keypoint-pairs";
import type { Keypoint } from "../model/shape";
import { Column } from "../columns/column";
import { Dictionary } from "./dictionary";
import type { Learned } from "./learned";

export type SnapshotClass = {
  id: number;
  name: string;
  colour: number;
  code: string;
  /** The class it stands under. */
  parent?: number | null | undefined;
  /** What it declares of the attributes of its objects. */
  attributes?: readonly AttributeSchema[] | undefined;
  /** Names of its keypoints, and which are each other's left and right. */
  keypoints?: string[] | undefined;
  pairs?: KeypointPair[] | undefined;
};

/** A delivery with what is known of its images where they do not say it themselves; "" where it is not. */
export type SnapshotDelivery = {
  id: number;
  name: string;
  source: string;
  licence: string;
  camera: string;
  day: string;
  place: string;
  /** False where it is undone: its images lie in the bin. */
  listed: boolean;
};

/** An image as a snapshot takes it. `day` and `place` are what its own file tells, "" where it does not. */
export type SnapshotImage = {
  id: number;
  /** SHA-256 of its bytes, 32 bytes. */
  hash: Uint8Array;
  delivery: number;
  split: Split | null;
  state: LabelState;
  width: number;
  height: number;
  bytes: number;
  pinned: boolean;
  present: boolean;
  day: string;
  place: string;
  tags: readonly string[];
  /** Image-level classes, by id. */
  classes: readonly number[];
  name: string;
  /** Milliseconds since 1970, UTC; `taken` as its own file tells, NaN where it does not. */
  taken: number;
  arrived: number;
  changed: number;
  turned: boolean;
  captions: readonly string[];
  findings: readonly string[];
  /** A JSON object; null where it has none. */
  attributes: string | null;
  /** What its fields read as. */
  fieldKinds: ReturnType<typeof kindsOfFields>;
  /** Ids of images that are nearly the same, in stock or not. */
  nearCopies: readonly number[];
  /** Proposals that nobody has answered. */
  suggestions: Suggested;
};

/** How many proposals are open, the lowest confidence among them (NaN where there are none), and those with a shape. */
export type Suggested = { count: number; likely: number; objects: readonly SelectableObject[] };
export const noSuggestions: Suggested = { count: 0, likely: Number.NaN, objects: [] };

/** An object as a snapshot takes it; `shape` is a place in `shapeKinds`, `flags` a sum of `flagBits`. */
export type SnapshotObject = {
  id: number;
  classId: number;
  x: number;
  y: number;
  width: number;
  height: number;
  area: number;
  confidence: number;
  shape: number;
  flags: number;
  attributes: string | null;
  /** Of a shape of keypoints, in the order of its class. */
  keypoints?: readonly Keypoint[] | null;
};

export const flagBits = { crowd: 1, occluded: 2, truncated: 4, difficult: 8 } as const;

const attributesSchema = z.record(z.string(), attributeValueSchema);
const textsSchema = z.array(z.string());
const hashBytes = 32;
const hexPairs = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, "0"));
const separator = "\u0000";

export const splitCodes = ["none", ...splitNames] as const;

/** The place of an id in a list that it is put into where it is not there yet. */
function indexOf(id: number, ids: number[], indexes: Map<number, number>): number {
  const known = indexes.get(id);
  if (known !== undefined) return known;
  const index = ids.push(id) - 1;
  indexes.set(id, index);
  return index;
}

/** What a relabeled snapshot has for its own: of images, and of objects. */
type RelabeledColumns = Pick<
  Snapshot,
  "classes" | "present" | "split" | "state" | "classSet" | "firstObject" | "objectCount" | ObjectColumn
>;
type ObjectColumn = (typeof objectColumns)[number];
export const objectColumns = [
  ...(["objectId", "objectClass", "x", "y", "boxWidth", "boxHeight", "area", "confidence"] as const),
  ...(["attributes", "shape", "flags"] as const),
] as const;

export class Snapshot {
  /** The collection's revision that it shows. */
  revision = 0;
  classes: readonly SnapshotClass[] = [];
  deliveries: readonly SnapshotDelivery[] = [];
  /** Names of attributes that classes or images may carry. */
  declaredAttributes: readonly string[] = [];

  /** Slots of images that were put in since somebody began to keep them; null where nobody does. */
  touched: Set<number> | null = null;

  /** Loaded when something is first asked that needs it. */
  learned: Learned | null = null;

  readonly ids = new Column(Float64Array);
  /** The index of its delivery in `deliveryIds`. */
  readonly delivery = new Column(Uint32Array);
  readonly split = new Column(Uint8Array);
  readonly state = new Column(Uint8Array);
  readonly width = new Column(Uint32Array);
  readonly height = new Column(Uint32Array);
  readonly bytes = new Column(Float64Array);
  readonly pinned = new Column(Uint8Array);
  readonly present = new Column(Uint8Array);
  readonly day = new Column(Uint32Array);
  readonly place = new Column(Uint32Array);
  readonly tagSet = new Column(Uint32Array);
  readonly classSet = new Column(Uint32Array);
  readonly firstObject = new Column(Uint32Array);
  readonly objectCount = new Column(Uint32Array);
  readonly names: string[] = [];
  /** The names in lower case, as patterns are compared with them. */
  readonly lowerNames: string[] = [];
  /** How often an image got a name: what is worked out of all names is good until it changes. */
  namings = 0;
  readonly taken = new Column(Float64Array);
  readonly arrived = new Column(Float64Array);
  readonly changed = new Column(Float64Array);
  readonly turned = new Column(Uint8Array);
  /** Captions and findings, as codes in `textSets`. */
  readonly captionSet = new Column(Uint32Array);
  readonly findingSet = new Column(Uint32Array);
  /** Of the image, as a code in `attributeTexts`. */
  readonly imageAttributes = new Column(Uint32Array);
  /** What its fields read as, as a code in `fieldKindTexts`. */
  private readonly fieldKinds = new Column(Uint32Array);
  private readonly nearCopies = new Map<number, readonly number[]>();
  private readonly suggestions = new Map<number, Suggested>();

  private hashes = new Uint8Array(64 * hashBytes);
  private readonly hashTexts: string[] = [];

  /** Objects: their id, the index of their class in `classIds`, box, area (pixels), confidence (NaN where nobody gave one). */
  readonly objectId = new Column(Float64Array);
  readonly objectClass = new Column(Uint32Array);
  readonly x = new Column(Float32Array);
  readonly y = new Column(Float32Array);
  readonly boxWidth = new Column(Float32Array);
  readonly boxHeight = new Column(Float32Array);
  readonly area = new Column(Float32Array);
  readonly confidence = new Column(Float32Array);
  readonly attributes = new Column(Uint32Array);
  readonly shape = new Column(Uint8Array);
  readonly flags = new Column(Uint8Array);

  /** Keypoints by the ids of their objects. */
  readonly keypoints = new Map<number, readonly Keypoint[]>();

  readonly days = new Dictionary();
  readonly places = new Dictionary();
  readonly tagSets = new Dictionary();
  readonly classSets = new Dictionary();
  readonly textSets = new Dictionary();
  readonly attributeTexts = new Dictionary();
  private readonly fieldKindTexts = new Dictionary();

  /** Class ids in the order they were met; objects name them by their index. */
  readonly classIds: number[] = [];
  private readonly classIndexes = new Map<number, number>();
  /** Delivery ids in the order they were met; images name them by their index. */
  readonly deliveryIds: number[] = [];
  private readonly deliveryIndexes = new Map<number, number>();
  private readonly slots = new Map<number, number>();
  private parsedTags: (readonly string[])[] = [[]];
  private parsedClasses: (readonly number[])[] = [[]];
  private readonly carriedNames = new Set<string>();
  private namedTexts = 1;
  private parsedTexts: (readonly string[])[] = [[]];
  private parsedAttributes: Record<string, AttributeValue>[] = [{}];
  private readonly knownFieldKinds: SnapshotImage["fieldKinds"][] = [[]];
  /** Objects that no image has any more. */
  private leftBehind = 0;

  get length(): number {
    return this.ids.length;
  }

  classIndex(id: number): number {
    return indexOf(id, this.classIds, this.classIndexes);
  }

  deliveryIndex(id: number): number {
    return indexOf(id, this.deliveryIds, this.deliveryIndexes);
  }

  slotOf(id: number): number | null {
    return this.slots.get(id) ?? null;
  }

  /** Puts an image in: a new one behind all others, one that is there in its place, without its former objects. */
  putImage(image: SnapshotImage): number {
    const there = this.slots.get(image.id);
    const slot = there ?? this.appendSlot(image.id);
    this.leaveObjects(slot);
    this.touched?.add(slot);
    this.delivery.set(slot, this.deliveryIndex(image.delivery));
    this.split.set(slot, image.split === null ? 0 : splitNames.indexOf(image.split) + 1);
    this.state.set(slot, labelStates.indexOf(image.state));
    this.width.set(slot, image.width);
    this.height.set(slot, image.height);
    this.bytes.set(slot, image.bytes);
    this.pinned.set(slot, image.pinned ? 1 : 0);
    this.present.set(slot, image.present ? 1 : 0);
    this.day.set(slot, this.days.codeOf(image.day));
    this.place.set(slot, this.places.codeOf(image.place));
    this.tagSet.set(slot, this.tagSets.codeOf(image.tags.join(separator)));
    this.classSet.set(slot, this.codeOfClasses(image.classes));
    this.firstObject.set(slot, this.objectClass.length);
    this.objectCount.set(slot, 0);
    this.hashes.set(image.hash, slot * hashBytes);
    if (this.names[slot] !== image.name) this.namings++;
    this.names[slot] = image.name;
    this.lowerNames[slot] = image.name.toLowerCase();
    this.taken.set(slot, image.taken);
    this.arrived.set(slot, image.arrived);
    this.changed.set(slot, image.changed);
    this.turned.set(slot, image.turned ? 1 : 0);
    this.captionSet.set(slot, this.codeOfTexts(image.captions));
    this.findingSet.set(slot, this.codeOfTexts(image.findings));
    this.imageAttributes.set(slot, this.attributeTexts.codeOf(image.attributes));
    this.fieldKinds.set(slot, this.codeOfFieldKinds(image.fieldKinds));
    this.putNearCopies(slot, image.nearCopies);
    if (image.suggestions.count > 0) this.suggestions.set(slot, image.suggestions);
    else this.suggestions.delete(slot);
    return slot;
  }

  private codeOfFieldKinds(kinds: SnapshotImage["fieldKinds"]): number {
    const code = this.fieldKindTexts.codeOf(kinds.length > 0 ? JSON.stringify(kinds) : null);
    this.knownFieldKinds[code] ??= kinds;
    return code;
  }

  /** What the fields of the image in a slot read as. */
  fieldKindsOf(slot: number): SnapshotImage["fieldKinds"] {
    return this.knownFieldKinds[this.fieldKinds.at(slot)] ?? [];
  }

  /** The objects of an image are left behind. */
  private leaveObjects(slot: number): void {
    const [first, count] = [this.firstObject.at(slot), this.objectCount.at(slot)];
    this.leftBehind += count;
    if (this.keypoints.size > 0)
      for (let at = first; at < first + count; at++) this.keypoints.delete(this.objectId.at(at));
  }

  private appendSlot(id: number): number {
    const last = this.length > 0 ? this.ids.at(this.length - 1) : -1;
    if (id <= last) throw new Error(`image ${id} comes after ${last}`);
    const slot = this.length;
    this.ids.push(id);
    this.names.push("");
    this.lowerNames.push("");
    for (const column of [this.bytes, this.taken, this.arrived, this.changed]) column.push(0);
    for (const column of [this.delivery, this.width, this.height, this.day, this.place, this.tagSet, this.classSet])
      column.push(0);
    for (const column of [this.captionSet, this.findingSet, this.imageAttributes, this.fieldKinds]) column.push(0);
    for (const column of [this.firstObject, this.objectCount]) column.push(0);
    for (const column of [this.split, this.state, this.pinned, this.present, this.turned]) column.push(0);
    if (this.length * hashBytes > this.hashes.length) {
      const grown = new Uint8Array(Math.ceil(this.length * 1.5) * hashBytes);
      grown.set(this.hashes);
      this.hashes = grown;
    }
    this.slots.set(id, slot);
    return slot;
  }

  /** Adds an object, of the image put in last or, while loading, of any: `gatherObjects` then puts them in order. */
  pushObject(object: SnapshotObject): void {
    this.objectId.push(object.id);
    this.objectClass.push(this.classIndex(object.classId));
    this.x.push(object.x);
    this.y.push(object.y);
    this.boxWidth.push(object.width);
    this.boxHeight.push(object.height);
    this.area.push(object.area);
    this.confidence.push(object.confidence);
    this.shape.push(object.shape);
    this.flags.push(object.flags);
    this.attributes.push(this.attributeTexts.codeOf(object.attributes));
    if (object.keypoints) this.keypoints.set(object.id, object.keypoints);
  }

  /** Puts objects that were added in any order together by image; `owners` gives the slot of each. */
  gatherObjects(owners: Column<Uint32Array>): void {
    for (let at = 0; at < owners.length; at++) {
      const slot = owners.at(at);
      this.objectCount.set(slot, this.objectCount.at(slot) + 1);
    }
    let first = 0;
    for (let slot = 0; slot < this.length; slot++) {
      this.firstObject.set(slot, first);
      first += this.objectCount.at(slot);
    }
    const next = this.firstObject.values.slice(0, this.length);
    const places = new Uint32Array(owners.length);
    for (let at = 0; at < owners.length; at++) {
      const slot = owners.at(at);
      places[at] = next[slot] as number;
      next[slot] = (next[slot] as number) + 1;
    }
    for (const name of objectColumns) this[name].reorder(places);
  }

  /** Says that the object added last belongs to the image in `slot`, which was put in before it. */
  countObject(slot: number): void {
    this.objectCount.set(slot, this.objectCount.at(slot) + 1);
  }

  /** The hash of an image's bytes, in hexadecimal; put together once, as its slot never changes hands. */
  hashOf(slot: number): string {
    const known = this.hashTexts[slot];
    if (known !== undefined) return known;
    let text = "";
    for (let at = slot * hashBytes; at < (slot + 1) * hashBytes; at++) text += hexPairs[this.hashes[at] as number];
    this.hashTexts[slot] = text;
    return text;
  }

  /** The first 48 bits of the hash of an image's bytes, as a number: for putting images in the order of their hashes. */
  hashPrefix(slot: number): number {
    let prefix = 0;
    for (let at = slot * hashBytes; at < slot * hashBytes + 6; at++)
      prefix = prefix * 256 + (this.hashes[at] as number);
    return prefix;
  }

  /** The tags of a set of tags. */
  tagsIn(code: number): readonly string[] {
    return (this.parsedTags[code] ??= this.tagSets.textOf(code).split(separator));
  }

  /** The texts of a set of texts: captions, findings. */
  textsIn(code: number): readonly string[] {
    return (this.parsedTexts[code] ??= textsSchema.parse(JSON.parse(this.textSets.textOf(code))));
  }

  /** Codes of what was found on images that are in stock. */
  findingCodes(): ReadonlySet<string> {
    const sets = new Set<number>();
    for (let slot = 0; slot < this.length; slot++) if (this.present.at(slot) === 1) sets.add(this.findingSet.at(slot));
    return new Set([...sets].flatMap((code) => this.textsIn(code)));
  }

  private codeOfTexts(texts: readonly string[]): number {
    return texts.length === 0 ? 0 : this.textSets.codeOf(JSON.stringify(texts));
  }

  /** The attributes of a code in `attributeTexts`. */
  attributesIn(code: number): Record<string, AttributeValue> {
    return (this.parsedAttributes[code] ??= attributesSchema.parse(JSON.parse(this.attributeTexts.textOf(code))));
  }

  /** Near-copies are each other's: what a new image says of an older one is noted there as well. */
  private putNearCopies(slot: number, others: readonly number[]): void {
    if (others.length === 0) return;
    this.nearCopies.set(slot, others);
    const id = this.ids.at(slot);
    for (const other of others) {
      const there = this.slots.get(other);
      if (there === undefined) continue;
      const known = this.nearCopies.get(there) ?? [];
      if (!known.includes(id)) this.nearCopies.set(there, [...known, id]);
    }
  }

  /** Slots of the images in stock that are nearly the same as the one in a slot. */
  nearCopiesIn(slot: number): number[] {
    return (this.nearCopies.get(slot) ?? []).flatMap((other) => {
      const there = this.slots.get(other);
      return there !== undefined && this.present.at(there) === 1 ? [there] : [];
    });
  }

  /** The slots of images that have near-copies or had them, ascending. */
  slotsWithNearCopies(): Uint32Array {
    return Uint32Array.from(this.nearCopies.keys()).sort();
  }

  /** How many images in stock each is nearly the same as, by slot. */
  nearCopyCounts(): Uint32Array {
    const counts = new Uint32Array(this.length);
    for (const slot of this.nearCopies.keys()) counts[slot] = this.nearCopiesIn(slot).length;
    return counts;
  }

  suggestionsOf(slot: number): Suggested {
    return this.suggestions.get(slot) ?? noSuggestions;
  }

  /** Names of attributes that something carries or carried, and of those that a class declares. */
  attributeNames(): ReadonlySet<string> {
    for (; this.namedTexts < this.attributeTexts.size; this.namedTexts++)
      for (const name of Object.keys(this.attributesIn(this.namedTexts))) this.carriedNames.add(name);
    return new Set([...this.carriedNames, ...this.declaredAttributes]);
  }

  /** The code of a set of image-level classes, by their ids. */
  codeOfClasses(ids: readonly number[]): number {
    for (const id of ids) this.classIndex(id);
    return this.classSets.codeOf(ids.join(separator));
  }

  /** Ids of the image-level classes of a set of classes. */
  classesIn(code: number): readonly number[] {
    return (this.parsedClasses[code] ??= this.classSets.textOf(code).split(separator).map(Number));
  }

  /**
   * The same images under other labels: columns that are given are its own, the others are shared. Its classes and sets of
   * them are its own, its attributes where they are to be.
   */
  relabeled(columns: RelabeledColumns, hasOwnAttributes: boolean): Snapshot {
    const own = {
      classIds: [...this.classIds],
      classIndexes: new Map(this.classIndexes),
      classSets: new Dictionary(),
      parsedClasses: [[]],
    };
    const attributes = { attributeTexts: this.attributeTexts.copy(), parsedAttributes: [...this.parsedAttributes] };
    return Object.assign(Object.create(this) as Snapshot, own, hasOwnAttributes ? attributes : {}, columns);
  }

  /** True where so much was left behind that building anew is worth it. */
  get worn(): boolean {
    return this.leftBehind > 50_000 && this.leftBehind > this.objectClass.length / 4;
  }

  /** What it takes in memory, in bytes, as far as columns go. */
  get size(): number {
    let total = this.hashes.length + this.slots.size * 100 + (this.learned?.size ?? 0);
    for (const value of Object.values(this) as unknown[]) if (value instanceof Column) total += value.bytes;
    return total;
  }
}
