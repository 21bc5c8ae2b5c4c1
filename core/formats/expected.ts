/** What a package has to give back, kept small: numbers in columns, texts as hashes. */
import { polygonMoments } from "../geometry/polygon";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { labelStates, objectFlags, splitNames, type Item, type LabeledObject, type Size } from "../model/item";
import { shapeKinds, type Shape } from "../model/shape";
import { Column } from "../columns/column";
import type { Rounding } from "./format";

const kinds = shapeKinds;
const numbersPerObject = 7;
const labelsPerObject = 4;
const edges = ["left", "top", "right", "bottom"] as const;

/** FNV-1a, 32 bits: enough to see that a text came back as it went. */
function hash(text: string): number {
  let value = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) value = Math.imul(value ^ text.charCodeAt(i), 0x01000193);
  return value >>> 0;
}

function isFlagged(object: LabeledObject): boolean {
  for (const flag of objectFlags) if (object[flag] !== undefined) return true;
  return false;
}

function isPlain(object: LabeledObject): boolean {
  for (const key in object) if (key !== "class" && key !== "shape") return false;
  return true;
}

function sayings(object: LabeledObject): string {
  // Most objects are a class and a shape; that is seen sooner than that each of the flags is not there.
  if (isPlain(object)) return "";
  if (!object.attributes && !isFlagged(object) && object.givenArea === undefined) return "";
  const attributes = Object.entries(object.attributes ?? {}).sort(([a], [b]) => (a < b ? -1 : 1));
  return JSON.stringify([
    objectFlags.map((flag) =>
      typeof object[flag] === "number" ? Number(object[flag].toPrecision(6)) : object[flag] || false,
    ),
    attributes,
    ...(object.givenArea === undefined ? [] : [Number(object.givenArea.toPrecision(6))]),
  ]);
}

/** What of a shape is kept to the number: the runs of a mask, which keypoints are there. */
function shapeSayings(shape: Shape): string {
  if (shape.kind === "mask") return `${shape.width} ${shape.height} ${shape.counts.join(" ")}`;
  return shape.kind === "keypoints" ? shape.points.map(({ v }) => v).join("") : "";
}

/** The points of a shape that a box, an area and moments do not tell: keypoints in their order, those of a line. */
function placesOf(shape: Shape): number[] {
  if (shape.kind === "line") return shape.points;
  return shape.kind === "keypoints" ? shape.points.flatMap(({ x, y, v }) => (v > 0 ? [x, y] : [])) : [];
}

function isBlank(fields: Item["fields"]): boolean {
  for (const _ in fields) return false;
  return true;
}

function imageSayings(item: Item): string {
  const { classes, captions, fields, licence } = item;
  if (classes.length === 0 && captions.length === 0 && isBlank(fields) && !licence) return "";
  return JSON.stringify([
    [...classes].sort(),
    captions,
    Object.entries(fields).sort(([a], [b]) => (a < b ? -1 : 1)),
    licence ? [licence.name, licence.url] : null,
  ]);
}

/**
 * One object as it is kept: the edges of its box, area and first moments, class and kind as one number, a hash of all
 * that has to be the same to the number, and the places that keypoints and lines have.
 */
type Entry = {
  left: number;
  top: number;
  right: number;
  bottom: number;
  area: number;
  momentX: number;
  momentY: number;
  label: number;
  details: number;
  places: readonly number[];
};

export class ExpectedLabels {
  objects = 0;
  private readonly byPath = new Map<string, number>();
  private readonly classNumbers = new Map<string, number>();
  private readonly images = new Column(Uint32Array);
  private readonly labels = new Column(Uint32Array);
  private readonly numbers = new Column(Float64Array);
  private readonly places = new Column(Float64Array);
  private found = new Uint8Array(0);

  get count(): number {
    return this.byPath.size;
  }

  /** Every path that was announced. */
  paths(): IterableIterator<string> {
    return this.byPath.keys();
  }

  private classNumber(name: string): number {
    const known = this.classNumbers.get(name) ?? this.classNumbers.size;
    this.classNumbers.set(name, known);
    return known;
  }

  private entry(object: LabeledObject): Entry {
    const { x, y, width, height } = shapeBounds(object.shape) ?? { x: 0, y: 0, width: 0, height: 0 };
    const [momentX, momentY] = object.shape.kind === "polygon" ? polygonMoments(object.shape.parts) : [0, 0];
    return {
      left: x,
      top: y,
      right: x + width,
      bottom: y + height,
      area: shapeArea(object.shape),
      momentX,
      momentY,
      label: this.classNumber(object.class) * kinds.length + kinds.indexOf(object.shape.kind),
      details: hash(sayings(object) + shapeSayings(object.shape)),
      places: placesOf(object.shape),
    };
  }

  private keptEntry(nth: number): Entry {
    const { numbers, labels, places } = this;
    const at = nth * numbersPerObject;
    const row = nth * labelsPerObject;
    return {
      left: numbers.at(at),
      top: numbers.at(at + 1),
      right: numbers.at(at + 2),
      bottom: numbers.at(at + 3),
      area: numbers.at(at + 4),
      momentX: numbers.at(at + 5),
      momentY: numbers.at(at + 6),
      label: labels.at(row),
      details: labels.at(row + 1),
      places: places.slice(labels.at(row + 2), labels.at(row + 2) + labels.at(row + 3)),
    };
  }

  /** Remembers that reading has to give `item` under `path`. Throws where the path is taken. */
  add(path: string, item: Item & { size: Size }): void {
    if (this.byPath.has(path)) throw new Error(`${path} is written twice`);
    this.byPath.set(path, this.images.length);
    this.images.push(item.size.width);
    this.images.push(item.size.height);
    this.images.push(labelStates.indexOf(item.state) * 4 + splitNames.indexOf(item.split as never) + 1);
    this.images.push(hash(imageSayings(item)));
    this.images.push(this.labels.length / labelsPerObject);
    this.images.push(item.objects.length);
    this.objects += item.objects.length;
    for (const object of item.objects) {
      const { left, top, right, bottom, area, momentX, momentY, label, details, places } = this.entry(object);
      this.numbers.pushAll([left, top, right, bottom, area, momentX, momentY], numbersPerObject);
      this.labels.pushAll([label, details, this.places.length, places.length], labelsPerObject);
      this.places.pushAll(places, places.length);
    }
  }

  /** The size of the picture at `path`; null where none was announced there. */
  sizeOf(path: string): Size | null {
    const at = this.byPath.get(path);
    return at === undefined ? null : { width: this.images.at(at), height: this.images.at(at + 1) };
  }

  /** Forgets what has come back so far. */
  startComparing(): void {
    this.found = new Uint8Array(this.images.length / 6);
  }

  /**
   * What differs between `item`, read back and in pixels, and what went out; null where it is the same within the
   * rounding.
   */
  compare(item: Item, rounding: Rounding): string | null {
    const at = this.byPath.get(item.path);
    if (at === undefined) return `${item.path} came back and was not written`;
    if (this.found[at / 6]) return `${item.path} came back twice`;
    this.found[at / 6] = 1;
    const [width, height, kept, details, first, count] = this.images.slice(at, at + 6) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const wanted = { state: labelStates[Math.floor(kept / 4)], split: splitNames[(kept % 4) - 1] ?? null };
    if (item.state !== wanted.state) return `${item.path} was ${wanted.state} and came back ${item.state}`;
    if (item.split !== wanted.split)
      return `${item.path} was in ${wanted.split ?? "no split"} and came back in ${item.split ?? "none"}`;
    if (hash(imageSayings(item)) !== details) return `${item.path} came back with other classes, captions or fields`;
    if (item.objects.length !== count)
      return `${item.path} had ${count} objects and came back with ${item.objects.length}`;
    const out: Entry[] = [];
    for (let n = 0; n < count; n++) out.push(this.keptEntry(first + n));
    const back: Entry[] = [];
    for (const object of item.objects) back.push(this.entry(object));
    const tolerance = rounding.pixels + rounding.relative * Math.max(width, height) + 1e-9 * Math.max(width, height);
    const differs = pairDiffers(out, back, tolerance);
    if (differs < 0) return null;
    // A format may keep its objects in an order of its own.
    if (pairDiffers([...out].sort(byPlace), [...back].sort(byPlace), tolerance) < 0) return null;
    return `object ${differs + 1} of ${item.path}, a ${item.objects[differs]?.class ?? ""}, came back different`;
  }

  /** A path that was written and has not come back; null where all have. */
  missing(): string | null {
    for (const [path, at] of this.byPath) if (!this.found[at / 6]) return path;
    return null;
  }
}

function byPlace(a: Entry, b: Entry): number {
  return (
    a.label - b.label ||
    edges.map((edge) => Math.round(a[edge] - b[edge])).find((d) => d !== 0) ||
    a.details - b.details ||
    a.places.map((place, n) => place - (b.places[n] ?? 0)).find((d) => Math.abs(d) > 1) ||
    a.area - b.area
  );
}

/** Index of the first pair that is not the same within `tolerance` pixels; −1 where all are. */
function pairDiffers(out: readonly Entry[], back: readonly Entry[], tolerance: number): number {
  for (let n = 0; n < out.length; n++) if (differ(out[n] as Entry, back[n] as Entry, tolerance)) return n;
  return -1;
}

function differ(a: Entry, b: Entry, tolerance: number): boolean {
  if (a.label !== b.label || a.details !== b.details) return true;
  for (const edge of edges) if (!(Math.abs(a[edge] - b[edge]) <= tolerance)) return true;
  if (a.places.length !== b.places.length) return true;
  for (let n = 0; n < a.places.length; n++)
    if (!(Math.abs((a.places[n] as number) - (b.places[n] as number)) <= tolerance)) return true;
  // Moving an outline by the tolerance changes its area by at most about its box's outline times that.
  const outline = 2 * (a.right - a.left + a.bottom - a.top);
  const slack = 1e-6 * a.area + 2 * tolerance * (outline + 4 * tolerance);
  const far = 1 + Math.max(Math.abs(a.left), Math.abs(a.right), Math.abs(a.top), Math.abs(a.bottom));
  return !(
    Math.abs(a.area - b.area) <= slack &&
    Math.abs(a.momentX - b.momentX) <= slack * far &&
    Math.abs(a.momentY - b.momentY) <= slack * far
  );
}
