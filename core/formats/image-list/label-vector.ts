/** What a row's numbers say: class numbers, or a header and boxes. */
import { shapeBounds } from "../../geometry/shape";
import type { LabeledObject, Size } from "../../model/item";

const headerWidth = 2;
const objectWidth = 5;

/** True where a vector is `[header width, object width, …, objects]` with whole objects. */
export function isDetection(vector: readonly number[]): boolean {
  const [header, width] = vector;
  return (
    header !== undefined &&
    width !== undefined &&
    Number.isInteger(header) &&
    Number.isInteger(width) &&
    header >= headerWidth &&
    width >= objectWidth &&
    vector.length >= header &&
    (vector.length - header) % width === 0
  );
}

/**
 * True where the rows of one list are boxes: every row has the header and whole objects, and one of them has an
 * object with
 * edges that are shares, or all hold nothing behind the published header `2 5`. Class numbers alone can look like a
 * header.
 */
export function areDetections(vectors: readonly (readonly number[])[]): boolean {
  if (vectors.length === 0 || !vectors.every(isDetection)) return false;
  const shares = vectors.some((vector) => {
    const found = detections(vector);
    return (
      found.length > 0 &&
      vector
        .slice((vector[0] as number) + 1, (vector[0] as number) + objectWidth)
        .every((edge) => edge >= -0.5 && edge <= 1.5)
    );
  });
  return (
    shares ||
    vectors.every((vector) => vector.length === headerWidth && vector[0] === headerWidth && vector[1] === objectWidth)
  );
}

/** Class numbers in an order that is not taken for the header of an empty row of boxes. */
export function labelVector(numbers: readonly number[]): number[] {
  return numbers.length === headerWidth && numbers[0] === headerWidth && numbers[1] === objectWidth
    ? [objectWidth, headerWidth]
    : [...numbers];
}

/** The boxes of a detection vector, relative, with their class numbers. */
export function detections(vector: readonly number[]): { number: number; shape: LabeledObject["shape"] }[] {
  const [header, width] = vector as [number, number];
  const found: { number: number; shape: LabeledObject["shape"] }[] = [];
  for (let at = header; at < vector.length; at += width) {
    const [number, x1, y1, x2, y2] = vector.slice(at, at + objectWidth) as [number, number, number, number, number];
    found.push({ number, shape: { kind: "box", x: x1, y: y1, width: x2 - x1, height: y2 - y1 } });
  }
  return found;
}

/** Objects as a detection vector: `2 5`, then class and relative edges of each. */
export function detectionVector(
  objects: readonly LabeledObject[],
  numberOf: (name: string) => number,
  size: Size,
): number[] {
  return [
    headerWidth,
    objectWidth,
    ...objects.flatMap((object) => {
      const box = shapeBounds(object.shape);
      return box
        ? [
            numberOf(object.class),
            box.x / size.width,
            box.y / size.height,
            (box.x + box.width) / size.width,
            (box.y + box.height) / size.height,
          ]
        : [];
    }),
  ];
}
