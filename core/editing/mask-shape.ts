/** Masks as shapes and as canvases, and what is done to a mask as a whole. */
import { paintPolygon } from "../geometry/rasterise";
import { connectedRegions } from "../geometry/regions";
import { bitmapFromRuns, runsArea, runsFromBitmap } from "../geometry/run-length";
import type { Size } from "../model/item";
import type { Shape } from "../model/shape";
import { emptyCanvas, fillHoles, growMask, type MaskCanvas } from "./mask-canvas";
import { areaParts } from "./outlines";

export type Mask = Extract<Shape, { kind: "mask" }>;

/** The canvas of a picture with the area of a shape painted; an empty one for lines and keypoints. */
export function canvasOf(shape: Shape, { width, height }: Size): MaskCanvas {
  if (shape.kind === "mask" && shape.width === width && shape.height === height)
    return { bitmap: bitmapFromRuns(shape.counts, width, height), width, height };
  const canvas = emptyCanvas(width, height);
  paintPolygon(canvas.bitmap, areaParts(shape) ?? [], width, height);
  return canvas;
}

/** The mask that a canvas holds; null for an empty one. */
export function maskOf({ bitmap, width, height }: MaskCanvas): Mask | null {
  if (!bitmap.includes(1)) return null;
  return { kind: "mask", width, height, counts: runsFromBitmap(bitmap, width, height) };
}

/** The mask with something done to its canvas; null where nothing of it is left. */
export function changedMask(mask: Mask, change: (canvas: MaskCanvas) => void): Mask | null {
  const canvas = canvasOf(mask, mask);
  change(canvas);
  return maskOf(canvas);
}

export const withoutHoles = (mask: Mask): Mask | null => changedMask(mask, fillHoles);

export const grown = (mask: Mask, pixels: number): Mask | null =>
  changedMask(mask, (canvas) => growMask(canvas, pixels));

/** The largest of the parts that a mask falls into; pixels that touch by a corner belong together. */
export function largestPart(mask: Mask): Mask {
  const { width, height } = mask;
  const parts = connectedRegions(canvasOf(mask, mask).bitmap, width, height, new Set([0]));
  const largest = parts.reduce<number[] | null>(
    (best, { counts }) => (best === null || runsArea(counts) > runsArea(best) ? counts : best),
    null,
  );
  return largest ? { kind: "mask", width, height, counts: largest } : mask;
}
