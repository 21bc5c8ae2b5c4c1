/** The projective map between two quadrilaterals. */
import { compose, invert, type Matrix } from "./transform";

/** Four corners `[x1, y1, … x4, y4]`, one after the other around. */
export type Quadrilateral = readonly [number, number, number, number, number, number, number, number];

/**
 * The map that sends the unit square's corners (0,0), (1,0), (1,1), (0,1) to these. Heckbert, "Fundamentals of Texture
 * Mapping and Image Warping" (1989), 2.2.3.
 */
function fromUnitSquare([x0, y0, x1, y1, x2, y2, x3, y3]: Quadrilateral): Matrix {
  const [dx1, dx2, sx] = [x1 - x2, x3 - x2, x0 - x1 + x2 - x3];
  const [dy1, dy2, sy] = [y1 - y2, y3 - y2, y0 - y1 + y2 - y3];
  const determinant = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / determinant;
  const h = (dx1 * sy - sx * dy1) / determinant;
  return [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1];
}

/** The map that sends the corners of one quadrilateral to those of another; both must be convex. */
export function quadrilateralMap(from: Quadrilateral, to: Quadrilateral): Matrix {
  const map = compose(invert(fromUnitSquare(from)), fromUnitSquare(to));
  return map.map((value) => value / map[8]) as unknown as Matrix;
}

/** Whether the corners turn the same way all around, clockwise as seen. */
export function isConvex(corners: Quadrilateral): boolean {
  const at = (index: number) => corners[index % 8] as number;
  for (let i = 0; i < 8; i += 2) {
    const [ax, ay] = [at(i + 2) - at(i), at(i + 3) - at(i + 1)];
    const [bx, by] = [at(i + 4) - at(i + 2), at(i + 5) - at(i + 3)];
    if (ax * by - ay * bx <= 0) return false;
  }
  return true;
}
