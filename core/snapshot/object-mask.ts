/** Conditions on objects evaluated over a snapshot: 1 for each object, by its place, that meets them. */
import type { BoundObject, BoundTest } from "../selection/bind";
import { shapeKinds, type ObjectField } from "../selection/fields";
import { atSinglePrecision, attributeValues, singleFields } from "../selection/predicate";
import { combine, heldTest, invert, maskByCode, numbersMask, type Mask } from "./masks";
import { flagBits, type Snapshot } from "./snapshot";

/**
 * Where the middle of each object lies along one side of its image (0…1), by the place of the object; NaN for those that
 * no image has. Plain loops over typed arrays: a function for each object would take ten times as long.
 */
function middles(snapshot: Snapshot, starts: Float32Array, lengths: Float32Array, sides: Uint32Array): Float64Array {
  const values = new Float64Array(starts.length).fill(Number.NaN);
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  for (let slot = 0; slot < sides.length; slot++) {
    const side = sides[slot] as number;
    const end = (firsts[slot] as number) + (counts[slot] as number);
    if (side > 0)
      for (let at = firsts[slot] as number; at < end; at++)
        values[at] = ((starts[at] as number) + (lengths[at] as number) / 2) / side;
  }
  return values;
}

/** The share that each object takes of its image, as `middles`. */
function shares(snapshot: Snapshot): Float64Array {
  const areas = snapshot.area.used;
  const values = new Float64Array(areas.length).fill(Number.NaN);
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  const [widths, heights] = [snapshot.width.used, snapshot.height.used];
  for (let slot = 0; slot < widths.length; slot++) {
    const whole = (widths[slot] as number) * (heights[slot] as number);
    const end = (firsts[slot] as number) + (counts[slot] as number);
    if (whole > 0) for (let at = firsts[slot] as number; at < end; at++) values[at] = (areas[at] as number) / whole;
  }
  return values;
}

function ratios(widths: Float32Array, heights: Float32Array): Float64Array {
  const values = new Float64Array(widths.length);
  for (let at = 0; at < widths.length; at++) {
    const height = heights[at] as number;
    values[at] = height > 0 ? (widths[at] as number) / height : Number.NaN;
  }
  return values;
}

/** What objects measure, by field; null where a field is no measure. */
function measuresOf(snapshot: Snapshot, field: ObjectField): Float32Array | Float64Array | null {
  switch (field) {
    case "width":
      return snapshot.boxWidth.used;
    case "height":
      return snapshot.boxHeight.used;
    case "area":
      return snapshot.area.used;
    case "confidence":
      return snapshot.confidence.used;
    case "share":
      return shares(snapshot);
    case "ratio":
      return ratios(snapshot.boxWidth.used, snapshot.boxHeight.used);
    case "x":
      return middles(snapshot, snapshot.x.used, snapshot.boxWidth.used, snapshot.width.used);
    case "y":
      return middles(snapshot, snapshot.y.used, snapshot.boxHeight.used, snapshot.height.used);
    default:
      return null;
  }
}

/** Measures that conditions ask for, each worked out once however many ask. */
class Measures {
  private readonly known = new Map<ObjectField, ReturnType<typeof measuresOf>>();

  constructor(private readonly snapshot: Snapshot) {}

  of(field: ObjectField): ReturnType<typeof measuresOf> {
    const known = this.known.get(field);
    if (known !== undefined) return known;
    const values = measuresOf(this.snapshot, field);
    this.known.set(field, values);
    return values;
  }
}

function objectFieldMask(snapshot: Snapshot, given: BoundTest<ObjectField>, measured: Measures): Mask {
  const { length } = snapshot.objectClass;
  const passes = heldTest(given);
  if ("attribute" in given.field) {
    const names = given.field.attribute;
    return maskByCode(length, snapshot.attributes, snapshot.attributeTexts.size, (code) =>
      passes(attributeValues(names, snapshot.attributesIn(code))),
    );
  }
  const { field } = given.field;
  const measures = measured.of(field);
  if (measures) {
    const isCoarse = given.kind === "compare" && singleFields.has(field);
    return numbersMask(measures, isCoarse ? { ...given, criterion: atSinglePrecision(given.criterion) } : given);
  }
  if (field === "shape")
    return maskByCode(length, snapshot.shape, shapeKinds.length, (code) => passes([shapeKinds[code] as string]));
  if (field === "suggested" || field === "by")
    return new Uint8Array(length).fill(passes(field === "suggested" ? [false] : []) ? 1 : 0);
  const bit = flagBits[field as keyof typeof flagBits];
  return maskByCode(length, snapshot.flags, 16, (code) => passes([(code & bit) !== 0]));
}

/** 1 for each object, by its place in the snapshot, that meets the conditions. */
export function objectMask(snapshot: Snapshot, tree: BoundObject, measured = new Measures(snapshot)): Mask {
  switch (tree.kind) {
    case "and":
    case "or":
      return combine(
        tree.kind,
        tree.parts.map((part) => objectMask(snapshot, part, measured)),
        snapshot.objectClass.length,
      );
    case "not":
      return invert(objectMask(snapshot, tree.part, measured));
    default:
      return objectFieldMask(snapshot, tree, measured);
  }
}
