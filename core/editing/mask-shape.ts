/**
 * Masks as shapes and as canvases, and what is done to a mask as a whole. Only the piece of the picture around a mask is
 * looked at: a picture of many megapixels holds many small masks.
 */
import { paintPolygon } from "../geometry/rasterise";
import { connectedRegions } from "../geometry/regions";
import { bitmapFromRuns, bitmapOfPiece, runsArea, runsOfPiece } from "../geometry/run-length";
import { shapeBounds } from "../geometry/shape";
import type { Size } from "../model/item";
import type { Box, Part, Shape } from "../model/shape";
import { emptyCanvas, fillHoles, growMask, type MaskCanvas } from "./mask-canvas";
import { areaParts } from "./outlines";

export type Mask = Extract<Shape, { kind: "mask" }>;

/** A piece of a mask's picture, to be changed by itself: `left` and `top` are where it begins, in whole pixels. */
export type MaskPiece = MaskCanvas & { left: number; top: number };

/** The whole pixels of a picture that some boxes reach into, and `margin` more on each side; null where none does. */
export function pieceAround(boxes: readonly Box[], margin: number, { width, height }: Size): Box | null {
  if (boxes.length === 0) return null;
  const x = Math.max(0, Math.floor(Math.min(...boxes.map((box) => box.x))) - margin);
  const y = Math.max(0, Math.floor(Math.min(...boxes.map((box) => box.y))) - margin);
  const right = Math.min(width, Math.ceil(Math.max(...boxes.map((box) => box.x + box.width))) + margin);
  const bottom = Math.min(height, Math.ceil(Math.max(...boxes.map((box) => box.y + box.height))) + margin);
  return right > x && bottom > y ? { x, y, width: right - x, height: bottom - y } : null;
}

/** A piece of the picture with the area of a shape painted; an empty one for lines, keypoints and no shape. */
export function pieceOf(shape: Shape | null, piece: Box): MaskPiece {
  const { x: left, y: top, width, height } = piece;
  if (shape?.kind === "mask")
    return { bitmap: bitmapOfPiece(shape.counts, shape.height, piece), width, height, left, top };
  const canvas = emptyCanvas(width, height);
  const parts = (shape && areaParts(shape)) ?? [];
  paintPolygon(canvas.bitmap, shiftedParts(parts, -left, -top), width, height);
  return { ...canvas, left, top };
}

const shiftedPath = (path: readonly number[], dx: number, dy: number) =>
  path.map((value, i) => value + (i % 2 === 0 ? dx : dy));
const shiftedParts = (parts: readonly Part[], dx: number, dy: number) =>
  parts.map((part) => part.map((ring) => shiftedPath(ring, dx, dy)));

/** A path of the picture as the piece has it. */
export const toPiece = (path: readonly number[], { left, top }: MaskPiece): number[] => shiftedPath(path, -left, -top);

/** The mask of a picture that a piece holds all of; null for an empty one. */
export function maskOfPiece({ bitmap, left, top, ...piece }: MaskPiece, { width, height }: Size): Mask | null {
  if (!bitmap.includes(1)) return null;
  const counts = runsOfPiece(bitmap, { x: left, y: top, width: piece.width, height: piece.height }, width, height);
  return { kind: "mask", width, height, counts };
}

/** The mask with something done to the piece around it, `margin` pixels more on each side; null where nothing is left. */
export function changedMask(mask: Mask, margin: number, change: (piece: MaskPiece) => void): Mask | null {
  const bounds = shapeBounds(mask);
  const around = bounds && pieceAround([bounds], margin, mask);
  if (!around) return null;
  const piece = pieceOf(mask, around);
  change(piece);
  return maskOfPiece(piece, mask);
}

export const withoutHoles = (mask: Mask): Mask | null => changedMask(mask, 1, fillHoles);

export const grown = (mask: Mask, pixels: number): Mask | null =>
  changedMask(mask, Math.max(0, Math.ceil(pixels)) + 1, (piece) => growMask(piece, pixels));

/** The largest of the parts that a mask falls into; pixels that touch by a corner belong together. */
export function largestPart(mask: Mask): Mask {
  const largest = changedMask(mask, 0, (piece) => {
    const { bitmap, width, height } = piece;
    const parts = connectedRegions(bitmap, width, height, new Set([0]));
    const best = parts.reduce<number[]>((most, { counts }) => (runsArea(counts) > runsArea(most) ? counts : most), []);
    piece.bitmap = bitmapFromRuns(best, width, height);
  });
  return largest ?? mask;
}
