/** What is looked at for the outline of a thing in a box, and the shape that comes of its pixels. */
import { polygonToMask } from "../geometry/rasterise";
import { simplifyRing } from "../geometry/simplify";
import type { Size } from "../model/item";
import type { Box, Part, Shape } from "../model/shape";
import { fillHoles } from "./mask-canvas";
import { largestPart, maskOfPiece } from "./mask-shape";
import { areaParts } from "./outlines";

/** The longer side of what is looked at, in pixels: enough for an outline, little enough to wait for. */
const mostPixels = 320;
/** So much of the box's longer side is looked at around it: what is not the thing is learned from there. */
const marginShare = 0.2;

export type Crop = {
  /** Of the picture, whole pixels. */
  frame: Box;
  /** Its size as it is looked at, and where the box lies in that. */
  width: number;
  height: number;
  box: Box;
};

/** The piece of a picture around a box, no larger than it has to be; null where the box holds no pixel of the picture. */
export function cropAround(box: Box, picture: Size): Crop | null {
  const margin = Math.max(8, marginShare * Math.max(box.width, box.height));
  const left = Math.max(0, Math.floor(box.x - margin));
  const top = Math.max(0, Math.floor(box.y - margin));
  const right = Math.min(picture.width, Math.ceil(box.x + box.width + margin));
  const bottom = Math.min(picture.height, Math.ceil(box.y + box.height + margin));
  if (right - left < 3 || bottom - top < 3) return null;
  const scale = Math.min(1, mostPixels / Math.max(right - left, bottom - top));
  const [width, height] = [
    Math.max(3, Math.round((right - left) * scale)),
    Math.max(3, Math.round((bottom - top) * scale)),
  ];
  // A rim of a pixel stays outside, so that there is something to learn from.
  const x = Math.min(width - 2, Math.max(1, Math.round((box.x - left) * scale)));
  const y = Math.min(height - 2, Math.max(1, Math.round((box.y - top) * scale)));
  const within = {
    x,
    y,
    width: Math.max(1, Math.min(width - 1 - x, Math.round(box.width * scale))),
    height: Math.max(1, Math.min(height - 1 - y, Math.round(box.height * scale))),
  };
  return { frame: { x: left, y: top, width: right - left, height: bottom - top }, width, height, box: within };
}

/** A place of the picture as one of the crop. */
export const toCrop = ({ frame, width, height }: Crop, x: number, y: number): [number, number] => [
  ((x - frame.x) * width) / frame.width,
  ((y - frame.y) * height) / frame.height,
];

/**
 * The outline of a thing from its pixels in a crop (row by row, 1 where it is): its largest part without holes, corners
 * within a pixel of the crop. Null where there is none.
 */
export function outlineOfCrop(
  { frame, width, height }: Crop,
  pixels: Uint8Array,
): Extract<Shape, { kind: "polygon" }> | null {
  const bitmap = Uint8Array.from(pixels);
  fillHoles({ bitmap, width, height });
  const mask = maskOfPiece({ bitmap, width, height, left: 0, top: 0 }, { width, height });
  const whole = mask && areaParts(largestPart(mask));
  if (!whole) return null;
  const parts = whole.map(([ring = []]): Part => [
    simplifyRing(ring, 1).map((value, i) =>
      i % 2 === 0 ? frame.x + (value * frame.width) / width : frame.y + (value * frame.height) / height,
    ),
  ]);
  return parts.length > 0 ? { kind: "polygon", parts } : null;
}

/** The same as a mask of the picture. */
export const maskOfOutline = ({ parts }: Extract<Shape, { kind: "polygon" }>, { width, height }: Size): Shape => ({
  kind: "mask",
  width,
  height,
  counts: polygonToMask(parts, width, height),
});
