/**
 * A selection evaluated over a snapshot: 1 for each slot whose image it means. Whatever is one of few values is tested
 * once a value and then looked up by its code, so that a hundred thousand images take a few milliseconds. It answers as
 * core/selection's predicate does, image by image.
 */
import { labelStates } from "../model/item";
import type { BoundHas, BoundObject, BoundSelection, BoundTest } from "../selection/bind";
import { within } from "../selection/criterion";
import { shapeKinds, type ImageField, type ObjectField } from "../selection/fields";
import {
  atSinglePrecision,
  attributeValues,
  criterionTest,
  objectPredicate,
  singleFields,
  type Held,
} from "../selection/predicate";
import { momentIn } from "../selection/scalars";
import type { Column } from "../stock/column";
import { baseName } from "../model/file-tree";
import { textsByDelivery } from "./delivery-texts";
import { flagBits, splitCodes, type Snapshot, type SnapshotDelivery } from "./snapshot";

type Mask = Uint8Array;
type Codes = Column<Uint8Array> | Column<Uint32Array>;

/** Says of the values that a field holds whether a test passes; of none, what it says of the unset. */
function heldTest(test: BoundTest<string>): (values: Held) => boolean {
  if (test.kind === "known") return (values) => values.length > 0 === test.set;
  return criterionTest(test.criterion);
}

/** Tests each of `size` codes once and gives every slot what its code came to. */
function byCode(length: number, column: Codes, size: number, passes: (code: number) => boolean): Mask {
  const table = Uint8Array.from({ length: size }, (_, code) => (passes(code) ? 1 : 0));
  const codes = column.values;
  const mask = new Uint8Array(length);
  for (let slot = 0; slot < length; slot++) mask[slot] = table[codes[slot] as number] as number;
  return mask;
}

/** Says of a number whether a test passes; NaN stands for the unset. */
function numberTest(test: BoundTest<string>): (value: number) => boolean {
  if (test.kind === "known") return (value) => !Number.isNaN(value) === test.set;
  const { numbers, dates, negated } = test.criterion;
  const intervals = [...numbers, ...dates];
  const [only] = intervals;
  if (only && intervals.length === 1) return (value) => within(value, only) !== negated;
  return (value) => intervals.some((interval) => within(value, interval)) !== negated;
}

function byNumber(length: number, test: BoundTest<string>, valueOf: (slot: number) => number): Mask {
  const passes = numberTest(test);
  const mask = new Uint8Array(length);
  for (let slot = 0; slot < length; slot++) mask[slot] = passes(valueOf(slot)) ? 1 : 0;
  return mask;
}

/** By what an image's delivery says of it. */
function byDelivery(snapshot: Snapshot, test: BoundTest<string>, texts: readonly string[]): Mask {
  const passes = heldTest(test);
  return byCode(snapshot.length, snapshot.delivery, texts.length, (code) => {
    const text = texts[code] as string;
    return passes(text === "" ? [] : [text]);
  });
}

const fact = (snapshot: Snapshot, name: keyof Omit<SnapshotDelivery, "id" | "listed">) =>
  textsByDelivery(snapshot, name);

function byName(snapshot: Snapshot, test: BoundTest<string>): Mask {
  const mask = new Uint8Array(snapshot.length);
  const passes = heldTest(test);
  const likeName = test.kind === "compare" && test.criterion.pattern !== null;
  for (let slot = 0; slot < snapshot.length; slot++) {
    const name = snapshot.names[slot] as string;
    mask[slot] = passes(likeName ? [name, baseName(name)] : [name]) ? 1 : 0;
  }
  return mask;
}

/** By where an image was taken: as its own file tells, else as was written down for its delivery. */
function byPlace(snapshot: Snapshot, passes: (values: Held) => boolean): Mask {
  const pass = (place: string) => (passes(place === "" ? [] : [place]) ? 1 : 0);
  const delivered = fact(snapshot, "place").map(pass);
  const own = Array.from({ length: snapshot.places.size }, (_, code) => pass(snapshot.places.textOf(code)));
  const mask = new Uint8Array(snapshot.length);
  for (let slot = 0; slot < mask.length; slot++) {
    const code = snapshot.place.at(slot);
    mask[slot] = (code === 0 ? delivered[snapshot.delivery.at(slot)] : own[code]) ?? 0;
  }
  return mask;
}

/** When each image was taken: as its own file tells, else the day written down for its delivery; NaN where neither does. */
export function takenOf(snapshot: Snapshot): (slot: number) => number {
  const delivered = fact(snapshot, "day").map((day) => momentIn(day)?.from ?? Number.NaN);
  return (slot) => {
    const own = snapshot.taken.at(slot);
    return Number.isNaN(own) ? (delivered[snapshot.delivery.at(slot)] as number) : own;
  };
}

function fieldMask(snapshot: Snapshot, test: BoundTest<ImageField>): Mask {
  const { length } = snapshot;
  const held = heldTest(test);
  if ("attribute" in test.field) {
    const names = test.field.attribute;
    return byCode(length, snapshot.imageAttributes, snapshot.attributeTexts.size, (code) =>
      held(attributeValues(names, snapshot.attributesIn(code))),
    );
  }
  switch (test.field.field) {
    case "name":
      return byName(snapshot, test);
    case "split":
      return byCode(length, snapshot.split, splitCodes.length, (code) => held([splitCodes[code] as string]));
    case "state":
      return byCode(length, snapshot.state, labelStates.length, (code) => held([labelStates[code] as string]));
    case "class": {
      const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
      return byCode(length, snapshot.classSet, snapshot.classSets.size, (code) =>
        held(code === 0 ? [] : snapshot.classesIn(code).flatMap((id) => names.get(id) ?? [])),
      );
    }
    case "tag":
      return byCode(length, snapshot.tagSet, snapshot.tagSets.size, (code) =>
        held(code === 0 ? [] : snapshot.tagsIn(code)),
      );
    case "caption":
      return byCode(length, snapshot.captionSet, snapshot.textSets.size, (code) => held(snapshot.textsIn(code)));
    case "finding":
      return byCode(length, snapshot.findingSet, snapshot.textSets.size, (code) => held(snapshot.textsIn(code)));
    case "delivery":
      return byDelivery(snapshot, test, fact(snapshot, "name"));
    case "source":
    case "licence":
    case "camera":
      return byDelivery(snapshot, test, fact(snapshot, test.field.field));
    case "place":
      return byPlace(snapshot, held);
    case "pinned":
      return byCode(length, snapshot.pinned, 2, (code) => held([code === 1]));
    case "turned":
      return byCode(length, snapshot.turned, 2, (code) => held([code === 1]));
    case "objects":
      return byNumber(length, test, (slot) => snapshot.objectCount.at(slot));
    case "width":
      return byNumber(length, test, (slot) => snapshot.width.at(slot));
    case "height":
      return byNumber(length, test, (slot) => snapshot.height.at(slot));
    case "megapixels":
      return byNumber(length, test, (slot) => (snapshot.width.at(slot) * snapshot.height.at(slot)) / 1e6);
    case "ratio":
      return byNumber(length, test, (slot) =>
        snapshot.height.at(slot) > 0 ? snapshot.width.at(slot) / snapshot.height.at(slot) : Number.NaN,
      );
    case "bytes":
      return byNumber(length, test, (slot) => snapshot.bytes.at(slot));
    case "taken":
      return byNumber(length, test, takenOf(snapshot));
    case "arrived":
      return byNumber(length, test, (slot) => snapshot.arrived.at(slot));
    case "changed":
      return byNumber(length, test, (slot) => snapshot.changed.at(slot));
    case "near-copies":
      return byNumber(length, test, (slot) => snapshot.nearCopiesOf(slot));
    case "suggestions":
      return byNumber(length, test, (slot) => snapshot.suggestionsOf(slot).count);
    case "likely":
      return byNumber(length, test, (slot) => snapshot.suggestionsOf(slot).likely);
    // Nothing is handed out, reviewed or signed yet.
    case "packet":
    case "by":
    case "review":
      return new Uint8Array(length).fill(held([]) ? 1 : 0);
  }
}

type ObjectTest = (object: number, slot: number) => boolean;

function objectCodeTest(column: Codes, size: number, passes: (code: number) => boolean): ObjectTest {
  const table = Uint8Array.from({ length: size }, (_, code) => (passes(code) ? 1 : 0));
  return (object) => table[column.values[object] as number] === 1;
}

/** What an object measures, by field. */
function measureOf(snapshot: Snapshot, field: ObjectField): ((object: number, slot: number) => number) | null {
  const { x, y, boxWidth, boxHeight, area, confidence, width, height } = snapshot;
  const positive = (value: number, by: number) => (by > 0 ? value / by : Number.NaN);
  switch (field) {
    case "width":
      return (object) => boxWidth.at(object);
    case "height":
      return (object) => boxHeight.at(object);
    case "area":
      return (object) => area.at(object);
    case "share":
      return (object, slot) => positive(area.at(object), width.at(slot) * height.at(slot));
    case "ratio":
      return (object) => positive(boxWidth.at(object), boxHeight.at(object));
    case "x":
      return (object, slot) => positive(x.at(object) + boxWidth.at(object) / 2, width.at(slot));
    case "y":
      return (object, slot) => positive(y.at(object) + boxHeight.at(object) / 2, height.at(slot));
    case "confidence":
      return (object) => confidence.at(object);
    default:
      return null;
  }
}

function objectFieldTest(snapshot: Snapshot, given: BoundTest<ObjectField>): ObjectTest {
  const held = heldTest(given);
  if ("attribute" in given.field) {
    const names = given.field.attribute;
    return objectCodeTest(snapshot.attributes, snapshot.attributeTexts.size, (code) =>
      held(attributeValues(names, snapshot.attributesIn(code))),
    );
  }
  const { field } = given.field;
  const measure = measureOf(snapshot, field);
  if (measure) {
    const coarse = given.kind === "compare" && singleFields.has(field);
    const passes = numberTest(coarse ? { ...given, criterion: atSinglePrecision(given.criterion) } : given);
    return (object, slot) => passes(measure(object, slot));
  }
  if (field === "shape")
    return objectCodeTest(snapshot.shape, shapeKinds.length, (code) => held([shapeKinds[code] as string]));
  if (field === "suggested" || field === "by") {
    const passes = held(field === "suggested" ? [false] : []);
    return () => passes;
  }
  const bit = flagBits[field as keyof typeof flagBits];
  return objectCodeTest(snapshot.flags, 16, (code) => held([(code & bit) !== 0]));
}

function objectTest(snapshot: Snapshot, tree: BoundObject): ObjectTest {
  switch (tree.kind) {
    case "and": {
      const parts = tree.parts.map((part) => objectTest(snapshot, part));
      return (object, slot) => parts.every((part) => part(object, slot));
    }
    case "or": {
      const parts = tree.parts.map((part) => objectTest(snapshot, part));
      return (object, slot) => parts.some((part) => part(object, slot));
    }
    case "not": {
      const part = objectTest(snapshot, tree.part);
      return (object, slot) => !part(object, slot);
    }
    default:
      return objectFieldTest(snapshot, tree);
  }
}

/** 1 for each class, by its index, that is meant. */
function classTable(snapshot: Snapshot, names: ReadonlySet<string> | null): Uint8Array {
  const wanted = new Set(snapshot.classes.flatMap(({ id, name }) => (names === null || names.has(name) ? [id] : [])));
  return Uint8Array.from(snapshot.classIds, (id) => (names === null || wanted.has(id) ? 1 : 0));
}

function hasMask(snapshot: Snapshot, tree: BoundHas): Mask {
  const { length } = snapshot;
  const { least, most, where } = tree;
  const classes = classTable(snapshot, tree.classes);
  const meets = where === null ? null : objectTest(snapshot, where);
  const [first, counts, objects] = [
    snapshot.firstObject.values,
    snapshot.objectCount.values,
    snapshot.objectClass.values,
  ];
  const mask = new Uint8Array(length);
  for (let slot = 0; slot < length; slot++) {
    const start = first[slot] as number;
    const end = start + (counts[slot] as number);
    let found = 0;
    for (let at = start; at < end; at++)
      if (classes[objects[at] as number] === 1 && (meets === null || meets(at, slot))) found++;
    if (tree.suggestions && where !== null) found += suggestedFound(snapshot, slot, tree);
    mask[slot] = found >= least && found <= most ? 1 : 0;
  }
  return mask;
}

/** Proposals of an image that are of the classes and meet the conditions. */
function suggestedFound(snapshot: Snapshot, slot: number, { classes, where }: BoundHas): number {
  const { objects } = snapshot.suggestionsOf(slot);
  if (objects.length === 0 || where === null) return 0;
  const meets = objectPredicate(where);
  const size = { width: snapshot.width.at(slot), height: snapshot.height.at(slot) };
  return objects.filter((object) => (classes === null || classes.has(object.class)) && meets(object, size)).length;
}

/** 1 for each slot whose image, in stock or in the bin, the selection means. */
export function selectionMask(snapshot: Snapshot, tree: BoundSelection): Mask {
  const { length } = snapshot;
  switch (tree.kind) {
    case "all":
      return new Uint8Array(length).fill(1);
    case "and": {
      const mask = new Uint8Array(length).fill(1);
      for (const part of tree.parts) {
        const other = selectionMask(snapshot, part);
        for (let slot = 0; slot < length; slot++) mask[slot] = (mask[slot] as number) & (other[slot] as number);
      }
      return mask;
    }
    case "or": {
      const mask = new Uint8Array(length);
      for (const part of tree.parts) {
        const other = selectionMask(snapshot, part);
        for (let slot = 0; slot < length; slot++) mask[slot] = (mask[slot] as number) | (other[slot] as number);
      }
      return mask;
    }
    case "not": {
      const mask = selectionMask(snapshot, tree.part);
      for (let slot = 0; slot < length; slot++) mask[slot] = (mask[slot] as number) ^ 1;
      return mask;
    }
    case "has":
      return hasMask(snapshot, tree);
    default:
      return fieldMask(snapshot, tree);
  }
}
