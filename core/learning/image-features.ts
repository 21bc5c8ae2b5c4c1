/** The features of an image and of the boxes on it as one run of bytes: what is kept of each image. */
import type { Box } from "../model/shape";
import { featureLength, featuresOf, type Pixels } from "./features";

const boxBytes = 16;
const entryBytes = boxBytes + featureLength;

/** What the features of so many images and objects come to at most, in bytes. */
export const expectedFeatureBytes = (images: number, objects: number): number =>
  images * featureLength + objects * entryBytes;

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
  const [across, down] = [pixels.width / size.width, pixels.height / size.height];
  return packFeatures(
    featuresOf(pixels, { x: 0, y: 0, width: pixels.width, height: pixels.height }),
    Array.from(distinct.values(), (box) => {
      const { x, y, width, height } = box;
      const seen = { x: x * across, y: y * down, width: width * across, height: height * down };
      return { box, features: featuresOf(pixels, seen) };
    }),
  );
}

/** The features of an image as a whole and of boxes on it, as one run of bytes. */
export function packFeatures(whole: Uint8Array, boxes: readonly { box: Box; features: Uint8Array }[]): Uint8Array {
  const packed = new Uint8Array(featureLength + boxes.length * entryBytes);
  const view = new DataView(packed.buffer);
  packed.set(whole);
  boxes.forEach(({ box, features }, nth) => {
    const at = featureLength + nth * entryBytes;
    floatBox(box).forEach((value, n) => view.setFloat32(at + 4 * n, value, true));
    packed.set(features, at + boxBytes);
  });
  return packed;
}

const holdsBox = (view: DataView, at: number, box: FloatBox) =>
  view.getFloat32(at, true) === box[0] &&
  view.getFloat32(at + 4, true) === box[1] &&
  view.getFloat32(at + 8, true) === box[2] &&
  view.getFloat32(at + 12, true) === box[3];

/**
 * Where in packed bytes (which begin at `start` and are `length` long) the features of a box begin; -1 where they are not
 * kept. `nth`: the entry at which it is looked for first.
 */
export function placeOfBox(view: DataView, start: number, length: number, box: FloatBox, nth = 0): number {
  const first = start + featureLength;
  const likely = first + nth * entryBytes;
  if (likely + entryBytes <= start + length && holdsBox(view, likely, box)) return likely + boxBytes;
  for (let at = first; at + entryBytes <= start + length; at += entryBytes)
    if (holdsBox(view, at, box)) return at + boxBytes;
  return -1;
}

/** Whether packed bytes hold every one of some boxes. */
export function holdsBoxes(packed: Uint8Array, boxes: readonly Box[]): boolean {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  return boxes.every((box) => placeOfBox(view, 0, packed.length, floatBox(box)) >= 0);
}
