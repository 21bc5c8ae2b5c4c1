/** How much a map enlarges or shrinks. */
import { applyToPoint, isAffine, type Matrix } from "../../geometry/transform";
import type { Size } from "../../model/item";

/**
 * The largest number of target pixels that a pixel's width and height come to anywhere on a picture of this size: above 1
 * it is enlarged, below 1 it shrinks.
 */
export function localScale(matrix: Matrix, { width, height }: Size): { x: number; y: number } {
  if (isAffine(matrix)) return { x: Math.hypot(matrix[0], matrix[3]), y: Math.hypot(matrix[1], matrix[4]) };
  let [x, y] = [0, 0];
  for (const [px, py] of [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
    [width / 2, height / 2],
  ] as const) {
    const [ax, ay] = applyToPoint(matrix, px - 0.5, py);
    const [bx, by] = applyToPoint(matrix, px + 0.5, py);
    const [cx, cy] = applyToPoint(matrix, px, py - 0.5);
    const [dx, dy] = applyToPoint(matrix, px, py + 0.5);
    x = Math.max(x, Math.hypot(bx - ax, by - ay));
    y = Math.max(y, Math.hypot(dx - cx, dy - cy));
  }
  return { x, y };
}
