/** Conditions on objects evaluated over a snapshot: 1 for each object, by its place, that meets them. */
import type { BoundObject, BoundTest } from "../selection/bind";
import { shapeKinds, type ObjectField } from "../selection/fields";
import { atSinglePrecision, attributeValues, singleFields } from "../selection/predicate";
import type { Numbers } from "../columns/column";
import { combine, heldTest, invert, maskByCode, numbersMask, type Mask } from "./masks";
import { flagBits, type Snapshot } from "./snapshot";

type Box = { x: number; y: number; width: number; height: number; area: number };

/** What `measure` says of each object of each image, by the place of the object; NaN for those that no image has. */
function measured(
  snapshot: Snapshot,
  measure: (object: Box, imageWidth: number, imageHeight: number) => number,
): Float64Array {
  const values = new Float64Array(snapshot.objectClass.length).fill(Number.NaN);
  const { x, y, boxWidth, boxHeight, area, width, height, firstObject, objectCount } = snapshot;
  const box = { x: 0, y: 0, width: 0, height: 0, area: 0 };
  for (let slot = 0; slot < snapshot.length; slot++) {
    const first = firstObject.at(slot);
    const end = first + objectCount.at(slot);
    const [imageWidth, imageHeight] = [width.at(slot), height.at(slot)];
    for (let at = first; at < end; at++) {
      box.x = x.at(at);
      box.y = y.at(at);
      box.width = boxWidth.at(at);
      box.height = boxHeight.at(at);
      box.area = area.at(at);
      values[at] = measure(box, imageWidth, imageHeight);
    }
  }
  return values;
}

const share = (value: number, of: number) => (of > 0 ? value / of : Number.NaN);

/** What objects measure, by field; null where a field is no measure. */
function measuresOf(snapshot: Snapshot, field: ObjectField): Numbers | null {
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
      return measured(snapshot, ({ area }, width, height) => share(area, width * height));
    case "ratio":
      return measured(snapshot, ({ width, height }) => share(width, height));
    case "x":
      return measured(snapshot, ({ x, width }, imageWidth) => share(x + width / 2, imageWidth));
    case "y":
      return measured(snapshot, ({ y, height }, _, imageHeight) => share(y + height / 2, imageHeight));
    default:
      return null;
  }
}

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
  const measures = measuresOf(snapshot, field);
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
