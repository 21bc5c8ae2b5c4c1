/** The features of an image and of the boxes on it as one run of bytes: what is kept of each image. */
import type { Box } from "../model/shape";
import { featureLength, featuresOf, type Pixels } from "./features";

const boxBytes = 16;
const entryBytes = boxBytes + featureLength;

/** A box as it is told apart from others: at single precision. */
export type FloatBox = readonly [x: number, y: number, width: number, height: number];

export const floatBox = ({ x, y, width, height }: Box): FloatBox => [
  Math.fround(x),
  Math.fround(y),
  Math.fround(width),
  Math.fround(height),
];

/**
 * Features of a picture and of boxes on it. `boxes` are in the frame of the picture as stated by `size`; `pixels` may be
 * a smaller rendering of it. Boxes that are the same are kept once.
 */
export function imageFeatures(
  pixels: Pixels,
  size: { width: number; height: number },
  boxes: readonly Box[],
): Uint8Array {
  const distinct = new Map(boxes.map((box) => [floatBox(box).join(" "), box]));
  const packed = new Uint8Array(featureLength + distinct.size * entryBytes);
  const view = new DataView(packed.buffer);
  packed.set(featuresOf(pixels, { x: 0, y: 0, width: pixels.width, height: pixels.height }));
  const [across, down] = [pixels.width / size.width, pixels.height / size.height];
  let at = featureLength;
  for (const box of distinct.values()) {
    floatBox(box).forEach((value, n) => view.setFloat32(at + 4 * n, value, true));
    const { x, y, width, height } = box;
    packed.set(
      featuresOf(pixels, { x: x * across, y: y * down, width: width * across, height: height * down }),
      at + boxBytes,
    );
    at += entryBytes;
  }
  return packed;
}

/**
 * Where in packed bytes (which begin at `start` and are `length` long) the features of a box begin; -1 where they are not
 * kept.
 */
export function placeOfBox(view: DataView, start: number, length: number, box: FloatBox): number {
  for (let at = start + featureLength; at + entryBytes <= start + length; at += entryBytes)
    if (
      view.getFloat32(at, true) === box[0] &&
      view.getFloat32(at + 4, true) === box[1] &&
      view.getFloat32(at + 8, true) === box[2] &&
      view.getFloat32(at + 12, true) === box[3]
    )
      return at + boxBytes;
  return -1;
}

/** Whether packed bytes hold every one of some boxes. */
export function holdsBoxes(packed: Uint8Array, boxes: readonly Box[]): boolean {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  return boxes.every((box) => placeOfBox(view, 0, packed.length, floatBox(box)) >= 0);
}
