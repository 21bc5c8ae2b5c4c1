/** Conditions on objects evaluated over a snapshot: 1 for each object, by its place, that meets them. */
import type { BoundObject, BoundTest } from "../selection/bind";
import { shapeKinds, type ObjectField } from "../selection/fields";
import { atSinglePrecision, attributeValues, singleFields } from "../selection/predicate";
import { combine, heldTest, invert, maskByCode, numbersMask, type Mask } from "./masks";
import { objectMeasures } from "./object-measures";
import { flagBits, type Snapshot } from "./snapshot";

function objectFieldMask(snapshot: Snapshot, given: BoundTest<ObjectField>): Mask {
  const { length } = snapshot.objectClass;
  const passes = heldTest(given);
  if ("attribute" in given.field) {
    const names = given.field.attribute;
    return maskByCode(length, snapshot.attributes, snapshot.attributeTexts.size, (code) =>
      passes(attributeValues(names, snapshot.attributesIn(code))),
    );
  }
  const { field } = given.field;
  const measures = objectMeasures(snapshot, field);
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
export function objectMask(snapshot: Snapshot, tree: BoundObject): Mask {
  switch (tree.kind) {
    case "and":
    case "or":
      return combine(
        tree.kind,
        tree.parts.map((part) => objectMask(snapshot, part)),
        snapshot.objectClass.length,
      );
    case "not":
      return invert(objectMask(snapshot, tree.part));
    default:
      return objectFieldMask(snapshot, tree);
  }
}
