/**
 * A selection evaluated over a snapshot: 1 for each slot whose image it means. Whatever is one of few values is tested
 * once a value and then looked up by its code, so that a hundred thousand images take a few milliseconds. It answers as
 * core/selection's predicate does, image by image.
 */
import { labelStates } from "../model/item";
import type { BoundHas, BoundSelection, BoundTest } from "../selection/bind";
import type { Criterion } from "../selection/criterion";
import type { ImageField } from "../selection/fields";
import { lowerPatternTest } from "../selection/pattern";
import { attributeValues, objectPredicate, type Held } from "../selection/predicate";
import { momentIn } from "../selection/scalars";
import { baseName } from "../model/file-tree";
import { textsByDelivery } from "./delivery-texts";
import { combine, heldTest, invert, maskByCode as byCode, numbersMask, type Mask } from "./masks";
import { objectClassSets } from "./object-class-sets";
import { objectMask } from "./object-mask";
import { splitCodes, type Snapshot, type SnapshotDelivery } from "./snapshot";

/** Tests what `valueOf` says of each slot; NaN stands for the unset. */
function byNumber(length: number, test: BoundTest<string>, valueOf: (slot: number) => number): Mask {
  const values = new Float64Array(length);
  for (let slot = 0; slot < length; slot++) values[slot] = valueOf(slot);
  return numbersMask(values, test);
}

/** The ratio of the sides of each image; NaN where it has no height. */
function sideRatios(snapshot: Snapshot): Float64Array {
  const [widths, heights] = [snapshot.width.used, snapshot.height.used];
  const ratios = new Float64Array(widths.length).fill(Number.NaN);
  for (let slot = 0; slot < ratios.length; slot++) {
    const height = heights[slot] as number;
    if (height > 0) ratios[slot] = (widths[slot] as number) / height;
  }
  return ratios;
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

/** By a pattern: the base name alone matches one as well as the whole path. */
function likeName(snapshot: Snapshot, { pattern, negated }: Criterion & { pattern: string }): Mask {
  const { lowerNames: names, length } = snapshot;
  const matches = lowerPatternTest(pattern);
  // A path ends in its base name: where anything may come before, it matches wherever that does.
  const isAnythingBefore = pattern.startsWith("*");
  const mask = new Uint8Array(length);
  for (let slot = 0; slot < length; slot++) {
    const name = names[slot] as string;
    const isMatch = matches(name) || (!isAnythingBefore && name.includes("/") && matches(baseName(name)));
    mask[slot] = isMatch !== negated ? 1 : 0;
  }
  return mask;
}

function byName(snapshot: Snapshot, test: BoundTest<string>): Mask {
  if (test.kind === "compare" && test.criterion.pattern !== null) {
    const { pattern } = test.criterion;
    return likeName(snapshot, { ...test.criterion, pattern });
  }
  const mask = new Uint8Array(snapshot.length);
  const passes = heldTest(test);
  for (let slot = 0; slot < snapshot.length; slot++) mask[slot] = passes([snapshot.names[slot] as string]) ? 1 : 0;
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
      return numbersMask(snapshot.objectCount.used, test);
    case "width":
      return numbersMask(snapshot.width.used, test);
    case "height":
      return numbersMask(snapshot.height.used, test);
    case "megapixels":
      return byNumber(length, test, (slot) => (snapshot.width.at(slot) * snapshot.height.at(slot)) / 1e6);
    case "ratio":
      return numbersMask(sideRatios(snapshot), test);
    case "bytes":
      return numbersMask(snapshot.bytes.used, test);
    case "taken":
      return byNumber(length, test, takenOf(snapshot));
    case "arrived":
      return numbersMask(snapshot.arrived.used, test);
    case "changed":
      return numbersMask(snapshot.changed.used, test);
    case "near-copies":
      return numbersMask(snapshot.nearCopyCounts(), test);
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

/** 1 for each class, by its index, that is meant. */
function classTable(snapshot: Snapshot, names: ReadonlySet<string>): Uint8Array {
  const wanted = new Set(snapshot.classes.flatMap(({ id, name }) => (names.has(name) ? [id] : [])));
  return Uint8Array.from(snapshot.classIds, (id) => (wanted.has(id) ? 1 : 0));
}

/** How many objects, by slot, each image has of the classes (null: of any) that are marked in `meets` (null: all are). */
function objectsFound(snapshot: Snapshot, classes: Uint8Array | null, meets: Mask | null): Uint32Array {
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  if (!classes && !meets) return counts;
  const objects = snapshot.objectClass.values;
  const found = new Uint32Array(snapshot.length);
  const { codes, sets } = objectClassSets(snapshot);
  const isShown = Uint8Array.from(sets, (set) => (!classes || set.some((index) => classes[index] === 1) ? 1 : 0));
  for (let slot = 0; slot < found.length; slot++) {
    if (isShown[codes.values[slot] as number] === 0) continue;
    const start = firsts[slot] as number;
    const end = start + (counts[slot] as number);
    let sum = 0;
    // Added up, not branched on: whether one meets is as good as chance.
    if (!classes) for (let at = start; at < end; at++) sum += (meets as Mask)[at] as number;
    else if (!meets) for (let at = start; at < end; at++) sum += classes[objects[at] as number] as number;
    else for (let at = start; at < end; at++) sum += (classes[objects[at] as number] as number) & (meets[at] as number);
    found[slot] = sum;
  }
  return found;
}

function hasMask(snapshot: Snapshot, tree: BoundHas): Mask {
  const { length } = snapshot;
  const { least, most, where } = tree;
  const classes = tree.classes && classTable(snapshot, tree.classes);
  if (classes && !where && least === 1 && most === Infinity) {
    const { codes, sets } = objectClassSets(snapshot);
    return byCode(length, codes, sets.length, (code) => (sets[code] ?? []).some((index) => classes[index] === 1));
  }
  const found = objectsFound(snapshot, classes, where && objectMask(snapshot, where));
  const asksProposals = tree.suggestions && where !== null;
  const mask = new Uint8Array(length);
  for (let slot = 0; slot < length; slot++) {
    const count = (found[slot] as number) + (asksProposals ? suggestedFound(snapshot, slot, tree) : 0);
    mask[slot] = Number(count >= least) & Number(count <= most);
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
    case "and":
    case "or":
      return combine(
        tree.kind,
        tree.parts.map((part) => selectionMask(snapshot, part)),
        length,
      );
    case "not":
      return invert(selectionMask(snapshot, tree.part));
    case "has":
      return hasMask(snapshot, tree);
    default:
      return fieldMask(snapshot, tree);
  }
}
