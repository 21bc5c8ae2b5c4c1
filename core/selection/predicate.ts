/** A selection as a predicate over one image with what is said about it. */
import { baseName } from "../model/file-tree";
import type { AttributeValue, Size } from "../model/item";
import type { BoundField, BoundObject, BoundSelection, BoundTest } from "./bind";
import { within, type Criterion } from "./criterion";
import type { ImageField, ObjectField } from "./fields";
import { patternTest } from "./pattern";
import { momentIn, numberIn } from "./scalars";

export type SelectableObject = {
  class: string;
  /** Of its box and of the shape itself, in pixels. */
  x: number;
  y: number;
  width: number;
  height: number;
  area: number;
  shape: string;
  confidence?: number | undefined;
  crowd?: boolean | undefined;
  occluded?: boolean | undefined;
  truncated?: boolean | undefined;
  difficult?: boolean | undefined;
  suggested?: boolean | undefined;
  by?: string | undefined;
  attributes?: Record<string, AttributeValue> | undefined;
};

/** Whatever is null, empty or left out is unset. Dates are milliseconds since 1970, UTC. */
export type SelectableImage = {
  name: string;
  split: string | null;
  state: string;
  classes: readonly string[];
  objects: readonly SelectableObject[];
  /** Objects that are proposed and not answered; they are no objects of the image. */
  suggestedObjects?: readonly SelectableObject[];
  width: number;
  height: number;
  bytes: number | null;
  tags?: readonly string[];
  taken?: number | null;
  arrived?: number | null;
  changed?: number | null;
  delivery?: string | null;
  source?: string | null;
  licence?: string | null;
  camera?: string | null;
  place?: string | null;
  captions?: readonly string[];
  nearCopies?: number | null;
  findings?: readonly string[];
  pinned?: boolean | null;
  turned?: boolean | null;
  suggestions?: number | null;
  likely?: number | null;
  attributes?: Record<string, AttributeValue>;
};

/** What a field holds: none, one or several values. Dates come as `Date`s, so that no number is taken for one. */
export type Held = readonly (AttributeValue | Date)[];

const one = (value: AttributeValue | null | undefined): Held => (value === null || value === undefined ? [] : [value]);
const text = (value: string | null | undefined): Held => (value ? [value] : []);
const moment = (value: number | null | undefined): Held =>
  value === null || value === undefined ? [] : [new Date(value)];

const imageValues: Record<ImageField, (image: SelectableImage) => Held> = {
  name: ({ name }) => [name],
  split: ({ split }) => [split ?? "none"],
  state: ({ state }) => [state],
  class: ({ classes }) => classes,
  tag: ({ tags = [] }) => tags,
  objects: ({ objects }) => [objects.length],
  width: ({ width }) => [width],
  height: ({ height }) => [height],
  megapixels: ({ width, height }) => [(width * height) / 1e6],
  ratio: ({ width, height }) => (height > 0 ? [width / height] : []),
  bytes: ({ bytes }) => one(bytes),
  taken: ({ taken }) => moment(taken),
  arrived: ({ arrived }) => moment(arrived),
  changed: ({ changed }) => moment(changed),
  delivery: ({ delivery }) => text(delivery),
  source: ({ source }) => text(source),
  licence: ({ licence }) => text(licence),
  camera: ({ camera }) => text(camera),
  place: ({ place }) => text(place),
  caption: ({ captions = [] }) => captions,
  "near-copies": ({ nearCopies }) => one(nearCopies),
  finding: ({ findings = [] }) => findings,
  pinned: ({ pinned }) => one(pinned),
  turned: ({ turned }) => one(turned),
  // Nothing is handed out, reviewed or signed yet: unset, as on files.
  packet: () => [],
  by: () => [],
  review: () => [],
  suggestions: ({ suggestions }) => one(suggestions),
  likely: ({ likely }) => one(likely),
};

/** Numbers of objects are compared at single precision (about seven digits), as stock keeps them for counting. */
export const single = Math.fround;

const objectValues: Record<ObjectField, (object: SelectableObject, image: Size) => Held> = {
  width: ({ width }) => [single(width)],
  height: ({ height }) => [single(height)],
  area: ({ area }) => [single(area)],
  share: ({ area }, { width, height }) => (width * height > 0 ? [single(area) / (width * height)] : []),
  ratio: ({ width, height }) => (single(height) > 0 ? [single(width) / single(height)] : []),
  x: ({ x, width }, image) => (image.width > 0 ? [(single(x) + single(width) / 2) / image.width] : []),
  y: ({ y, height }, image) => (image.height > 0 ? [(single(y) + single(height) / 2) / image.height] : []),
  confidence: ({ confidence }) => (confidence === undefined ? [] : [single(confidence)]),
  shape: ({ shape }) => [shape],
  crowd: ({ crowd = false }) => [crowd],
  occluded: ({ occluded = false }) => [occluded],
  truncated: ({ truncated = false }) => [truncated],
  difficult: ({ difficult = false }) => [difficult],
  suggested: ({ suggested = false }) => [suggested],
  by: ({ by }) => text(by),
};

/** Fields of an object that are kept at single precision as they are, and not worked out of such. */
export const singleFields: ReadonlySet<string> = new Set<ObjectField>(["width", "height", "area", "confidence"]);

/** The criterion with its bounds at single precision. */
export function atSinglePrecision(criterion: Criterion): Criterion {
  const numbers = criterion.numbers.map((interval) => ({
    ...interval,
    low: single(interval.low),
    high: single(interval.high),
  }));
  return { ...criterion, numbers };
}

/** Whether one value passes; `pattern` is the criterion's, made ready. */
function passes(value: AttributeValue | Date, criterion: Criterion, pattern: ((text: string) => boolean) | null) {
  if (value instanceof Date) return criterion.dates.some((interval) => within(value.getTime(), interval));
  if (Array.isArray(value)) return value.some((entry) => textPasses(entry, criterion, pattern));
  if (typeof value === "number") return criterion.numbers.some((interval) => within(value, interval));
  if (typeof value === "boolean") return criterion.truths.includes(value);
  return textPasses(value, criterion, pattern);
}

const textMatches = (value: string, { texts }: Criterion, pattern: ((text: string) => boolean) | null) =>
  texts.has(value) || (pattern !== null && pattern(value));

/** A text passes as what it is, and as the number or moment that it reads as. */
function textPasses(value: string, criterion: Criterion, pattern: ((text: string) => boolean) | null): boolean {
  if (textMatches(value, criterion, pattern)) return true;
  if (criterion.numbers.length > 0) {
    const number = numberIn(value);
    if (number !== null && criterion.numbers.some((interval) => within(number, interval))) return true;
  }
  if (criterion.dates.length > 0) {
    const read = momentIn(value);
    if (read !== null && criterion.dates.some((interval) => within(read.from, interval))) return true;
  }
  return false;
}

/** Says of the values of a field whether they meet a criterion. */
export function criterionTest(criterion: Criterion): (values: Held) => boolean {
  const pattern = criterion.pattern === null ? null : patternTest(criterion.pattern);
  return (values) => values.some((value) => passes(value, criterion, pattern)) !== criterion.negated;
}

/** What an attribute holds, under any of its names; an empty text and an empty list are values like others. */
export function attributeValues(
  names: readonly string[],
  attributes: Record<string, AttributeValue> | undefined,
): AttributeValue[] {
  return names.flatMap((name) => {
    const value = attributes && Object.hasOwn(attributes, name) ? attributes[name] : undefined;
    return value === undefined ? [] : [value];
  });
}

/** The base name alone matches a pattern as well as the whole path. */
const isLikeName = (test: BoundTest<string>) =>
  test.kind === "compare" && "field" in test.field && test.field.field === "name" && test.criterion.pattern !== null;

function fieldTest<F extends string, T extends unknown[]>(
  test: BoundTest<F>,
  values: Record<F, (...of: T) => Held>,
  attributesOf: (...of: T) => Record<string, AttributeValue> | undefined,
): (...of: T) => boolean {
  const read = (field: BoundField<F>) =>
    "field" in field ? values[field.field] : (...of: T) => attributeValues(field.attribute, attributesOf(...of));
  const held = read(test.field);
  if (test.kind === "known") return (...of) => held(...of).length > 0 === test.set;
  const meets = criterionTest(test.criterion);
  if (isLikeName(test)) return (...of) => meets(held(...of).flatMap((path) => [path, baseName(path as string)]));
  return (...of) => meets(held(...of));
}

/** Says of an object whether it meets the conditions. */
export function objectPredicate(tree: BoundObject): (object: SelectableObject, image: Size) => boolean {
  switch (tree.kind) {
    case "and": {
      const parts = tree.parts.map(objectPredicate);
      return (object, image) => parts.every((part) => part(object, image));
    }
    case "or": {
      const parts = tree.parts.map(objectPredicate);
      return (object, image) => parts.some((part) => part(object, image));
    }
    case "not": {
      const part = objectPredicate(tree.part);
      return (object, image) => !part(object, image);
    }
    default: {
      const coarse = tree.kind === "compare" && "field" in tree.field && singleFields.has(tree.field.field);
      const test = coarse ? { ...tree, criterion: atSinglePrecision(tree.criterion) } : tree;
      return fieldTest<ObjectField, [SelectableObject, Size]>(test, objectValues, ({ attributes }) => attributes);
    }
  }
}

/** Says of an image whether the selection means it. */
export function predicateOf(tree: BoundSelection): (image: SelectableImage) => boolean {
  switch (tree.kind) {
    case "all":
      return () => true;
    case "and": {
      const parts = tree.parts.map(predicateOf);
      return (image) => parts.every((part) => part(image));
    }
    case "or": {
      const parts = tree.parts.map(predicateOf);
      return (image) => parts.some((part) => part(image));
    }
    case "not": {
      const part = predicateOf(tree.part);
      return (image) => !part(image);
    }
    case "has": {
      const { least, most, classes, where, suggestions } = tree;
      const meets = where === null ? () => true : objectPredicate(where);
      return (image) => {
        const pool = suggestions ? [...image.objects, ...(image.suggestedObjects ?? [])] : image.objects;
        let found = 0;
        for (const object of pool) if ((classes === null || classes.has(object.class)) && meets(object, image)) found++;
        return found >= least && found <= most;
      };
    }
    default:
      return fieldTest<ImageField, [SelectableImage]>(tree, imageValues, ({ attributes }) => attributes);
  }
}
