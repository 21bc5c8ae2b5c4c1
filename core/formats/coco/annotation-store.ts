/** The annotations of one COCO file, kept small until all of its lists are read: they may come in any order. */
import { decodeCounts, mostMaskPixels, runsBounds } from "../../geometry/run-length";
import { shapeArea } from "../../geometry/shape";
import type { ClassInfo, LabeledObject } from "../../model/item";
import type { Keypoint, Part, Shape } from "../../model/shape";
import { Column } from "../../columns/column";

type Annotation = Record<string, unknown>;
type Id = string | number;

/** What the rows of most files hold; anything else is kept as it was parsed. */
const plainKeys = new Set(["id", "image_id", "category_id", "bbox", "area", "segmentation", "iscrowd"]);

const noBox = 0;
const goodBox = 1;

const mostCounted = 1 << 23;

/** Ids as small numbers, in the order they were first seen. `1` and `"1"` are one id. */
class Ids {
  private readonly numbers = new Map<string | number, number>();
  /**
   * The number of each small integer id, plus 1: most files count their ids, and a table is found in faster than a
   * map.
   */
  private counted = new Uint32Array(1024);
  readonly names: string[] = [];
  of(id: Id): number {
    if (typeof id === "number" && id >= 0 && id < mostCounted && Number.isInteger(id)) {
      const known = this.counted[id];
      return known === undefined || known === 0 ? this.count(id) : known - 1;
    }
    return this.look(id);
  }

  private count(id: number): number {
    if (id >= this.counted.length) {
      const larger = new Uint32Array(Math.min(mostCounted, Math.max(id + 1, this.counted.length * 2)));
      larger.set(this.counted);
      this.counted = larger;
    }
    const number = this.look(id);
    this.counted[id] = number + 1;
    return number;
  }

  private look(id: Id): number {
    // Text that is a plain number is the number; looking numbers up as they are spares a text for every row.
    const key = typeof id === "string" && /^(0|-?[1-9]\d{0,14})$/.test(id) ? Number(id) : id;
    const known = this.numbers.get(key);
    if (known !== undefined) return known;
    this.numbers.set(key, this.names.length);
    this.names.push(String(id));
    return this.names.length - 1;
  }
}

function isId(value: unknown): value is Id {
  return typeof value === "string" || typeof value === "number";
}

function numbers(value: unknown): number[] | null {
  if (!Array.isArray(value)) return null;
  for (let i = 0; i < value.length; i++) if (typeof value[i] !== "number") return null;
  return value as number[];
}

export class AnnotationStore {
  readonly images = new Ids();
  private readonly categories = new Ids();
  private readonly image = new Column(Uint32Array);
  private readonly category = new Column(Uint32Array);
  private readonly boxes = new Column(Float64Array);
  private readonly boxState = new Column(Uint32Array);
  private readonly areas = new Column(Float64Array);
  /** Where the row's rings start in `points`; rows without any start where the next one does. */
  private readonly ringsAt = new Column(Uint32Array);
  private readonly points = new Column(Float64Array);
  private readonly unusual = new Map<number, Annotation>();
  private readonly pending: {
    image: Id | null;
    category: Id | null;
    state: number;
    box: Float64Array;
    area: number;
    points: number;
  } = { image: null, category: null, state: noBox, box: new Float64Array(4), area: 0, points: 0 };
  private byImage: { starts: Uint32Array; rows: Uint32Array } | null = null;

  get length(): number {
    return this.image.length;
  }

  /** Takes an element of `annotations`; false where it is no object or names no image. */
  add(element: unknown): boolean {
    if (typeof element !== "object" || element === null) return false;
    const annotation = element as Annotation;
    const imageId = annotation["image_id"];
    if (!isId(imageId)) return false;
    this.begin();
    this.ofImage(imageId);
    const categoryId = annotation["category_id"];
    if (isId(categoryId)) this.ofCategory(categoryId);
    const box = numbers(annotation["bbox"]);
    if (box?.length === 4) this.box(...(box as [number, number, number, number]));
    if (typeof annotation["area"] === "number") this.area(annotation["area"]);
    const { segmentation } = annotation;
    if (Array.isArray(segmentation)) {
      for (const ring of segmentation) {
        const flat = numbers(ring);
        if (flat) this.ring(flat, flat.length);
      }
    }
    let plain = !segmentation || Array.isArray(segmentation);
    for (const key in annotation) if (!plainKeys.has(key)) plain = false;
    if (annotation["iscrowd"]) plain = false;
    if (!plain)
      this.unusual.set(
        this.length,
        Array.isArray(segmentation) ? { ...annotation, segmentation: undefined } : annotation,
      );
    return this.end();
  }

  /** Begins a row; what is said of it until `end` counts only then. */
  begin(): void {
    this.pending.image = null;
    this.pending.category = null;
    this.pending.state = noBox;
    this.pending.area = 0;
    this.pending.points = this.points.length;
  }

  ofImage(id: Id): void {
    this.pending.image = id;
  }

  ofCategory(id: Id): void {
    this.pending.category = id;
  }

  /** The row's area, as it is given. */
  area(area: number): void {
    this.pending.area = area;
  }

  /** The row's bbox; one without extent is none. */
  box(x: number, y: number, width: number, height: number): void {
    if (!(width > 0 && height > 0)) return;
    const { box } = this.pending;
    box[0] = x;
    box[1] = y;
    box[2] = width;
    box[3] = height;
    this.pending.state = goodBox;
  }

  /**
   * A ring of the row's segmentation, the first `length` of x1, y1, x2, …; one of fewer than three points, or of half
   * a point, is none.
   */
  ring(flat: ArrayLike<number>, length: number): void {
    if (length < 6 || length % 2 !== 0) return;
    this.points.push(length);
    this.points.pushAll(flat, length);
  }

  /** Ends a row; false, and the row is gone, where it names no image. */
  end(): boolean {
    const { image, category, state, box, area, points } = this.pending;
    if (image === null) {
      this.takeBack();
      return false;
    }
    this.image.push(this.images.of(image));
    this.category.push(this.categories.of(category ?? "none"));
    this.boxState.push(state);
    for (let i = 0; i < 4; i++) this.boxes.push(state === goodBox ? (box[i] as number) : 0);
    this.areas.push(area);
    this.ringsAt.push(points);
    return true;
  }

  /** Forgets the row that was begun. */
  takeBack(): void {
    this.points.truncate(this.pending.points);
  }

  /** Rows of an image, by its number in `images`, in the file's order. */
  rowsOf(image: number): Uint32Array {
    if (!this.byImage) {
      // A counting sort keeps the file's order within each image.
      const starts = new Uint32Array(this.images.names.length + 1);
      for (let row = 0; row < this.length; row++) (starts[this.image.at(row) + 1] as number)++;
      for (let i = 1; i < starts.length; i++) starts[i] = (starts[i] as number) + (starts[i - 1] as number);
      const next = starts.slice();
      const rows = new Uint32Array(this.length);
      for (let row = 0; row < this.length; row++) {
        const at = this.image.at(row);
        rows[next[at] as number] = row;
        next[at] = (next[at] as number) + 1;
      }
      this.byImage = { starts, rows };
    }
    const { starts, rows } = this.byImage;
    return rows.subarray(starts[image] ?? 0, starts[image + 1] ?? 0);
  }

  /** How many annotations name an image. */
  countOf(image: number): number {
    return this.rowsOf(image).length;
  }

  /** The caption that a row says in place of an object; null where it says none. */
  captionAt(row: number): string | null {
    const caption = this.unusual.get(row)?.["caption"];
    return typeof caption === "string" ? caption : null;
  }

  categoryAt(row: number): string {
    return this.categories.names[this.category.at(row)] ?? "";
  }

  /** The object a row says, of the class that its category is; null where it gives no whole shape. */
  objectAt(row: number, info: ClassInfo): LabeledObject | null {
    const more = this.unusual.get(row);
    const shape = this.shapeAt(row, info, more);
    if (!shape) return null;
    const object: LabeledObject = { class: info.name, shape };
    const area = this.areas.at(row);
    if (isOwnArea(area, shape)) object.givenArea = area;
    if (!more) return object;
    if (more["iscrowd"] === 1 || more["iscrowd"] === true) object.crowd = true;
    if (typeof more["score"] === "number") object.confidence = more["score"];
    for (const flag of ["occluded", "truncated", "difficult"] as const)
      if (more[flag] === true || more[flag] === 1) object[flag] = true;
    const attributes = attributesOf(more["attributes"]);
    if (attributes) object.attributes = attributes;
    return object;
  }

  /** The most exact shape the annotation gives: keypoints, then segmentation, then bbox. Null where none is whole. */
  private shapeAt(row: number, info: ClassInfo, more: Annotation | undefined): Shape | null {
    const box =
      this.boxState.at(row) === goodBox
        ? {
            x: this.boxes.at(row * 4),
            y: this.boxes.at(row * 4 + 1),
            width: this.boxes.at(row * 4 + 2),
            height: this.boxes.at(row * 4 + 3),
          }
        : null;
    const points = more ? keypointsOf(more["keypoints"], info) : null;
    if (points) return { kind: "keypoints", points, ...(box ? { box } : {}) };
    const start = this.ringsAt.at(row);
    const end = row + 1 < this.length ? this.ringsAt.at(row + 1) : this.points.length;
    if (end > start) {
      const parts: Part[] = [];
      for (let at = start; at < end;) {
        const length = this.points.at(at);
        parts.push([this.points.slice(at + 1, at + 1 + length)]);
        at += 1 + length;
      }
      return { kind: "polygon", parts };
    }
    return (more ? maskOf(more["segmentation"]) : null) ?? (box ? { kind: "box", ...box } : null);
  }
}

/** True for an area that is not just what the shape comes to: more than a pixel and a hundredth away from it. */
export function isOwnArea(area: number, shape: Shape): boolean {
  if (!(area > 0 && area < Infinity)) return false;
  const difference = Math.abs(area - shapeArea(shape));
  return difference > 1 && difference > 0.01 * area;
}

/** Attributes as they are kept; null where there is none. */
export function attributesOf(value: unknown): LabeledObject["attributes"] | null {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return null;
  const kept: NonNullable<LabeledObject["attributes"]> = {};
  for (const [name, entry] of Object.entries(value)) {
    if (typeof entry === "string" || typeof entry === "number" || typeof entry === "boolean") kept[name] = entry;
    else if (Array.isArray(entry) && entry.every((part) => typeof part === "string")) kept[name] = entry;
  }
  return Object.keys(kept).length > 0 ? kept : null;
}

/** `[x, y, v, …]` as points, where the class names keypoints and one of them is labeled. */
export function keypointsOf(value: unknown, info: Pick<ClassInfo, "keypoints">): Keypoint[] | null {
  const flat = numbers(value);
  if (!flat || flat.length < 3 || flat.length % 3 !== 0 || !info.keypoints) return null;
  const points: Keypoint[] = [];
  for (let i = 0; i < flat.length; i += 3) {
    const v = flat[i + 2] === 2 ? 2 : flat[i + 2] === 1 ? 1 : 0;
    points.push(v === 0 ? { x: 0, y: 0, v } : { x: flat[i] as number, y: flat[i + 1] as number, v });
  }
  return points.some((p) => p.v > 0) ? points : null;
}

/** A run-length segmentation `{size: [h, w], counts}`, compressed or not; null where it is none. */
export function maskOf(segmentation: unknown): Shape | null {
  if (typeof segmentation !== "object" || segmentation === null || Array.isArray(segmentation)) return null;
  const { size, counts } = segmentation as { size?: unknown; counts?: unknown };
  const dimensions = numbers(size);
  const runs = typeof counts === "string" ? decodeCounts(counts) : numbers(counts);
  if (!dimensions || dimensions.length !== 2 || !runs || runs.some((run) => !Number.isInteger(run) || run < 0))
    return null;
  const [height, width] = dimensions as [number, number];
  if (!(
    Number.isInteger(height) &&
    Number.isInteger(width) &&
    height > 0 &&
    width > 0 &&
    width * height <= mostMaskPixels
  ))
    return null;
  if (runs.reduce((sum, run) => sum + run, 0) > width * height) return null;
  return runsBounds(runs, height) ? { kind: "mask", width, height, counts: runs } : null;
}
