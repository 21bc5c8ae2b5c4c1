/** Affine maps on shapes. A matrix [a, b, c, d, e, f] sends (x, y) to (a·x + c·y + e, b·x + d·y + f). */
import type { Ring, Shape } from "../model/shape";
import { rotatedBoxCorners } from "./shape";
import { bitmapFromRuns, runsFromBitmap } from "./run-length";
import { boundsOfPoints } from "./box";

export type Matrix = readonly [number, number, number, number, number, number];

export const identity: Matrix = [1, 0, 0, 1, 0, 0];

/** The map that does `first`, then `second`. */
export function compose(first: Matrix, second: Matrix): Matrix {
  const [a1, b1, c1, d1, e1, f1] = first;
  const [a2, b2, c2, d2, e2, f2] = second;
  return [
    a2 * a1 + c2 * b1,
    b2 * a1 + d2 * b1,
    a2 * c1 + c2 * d1,
    b2 * c1 + d2 * d1,
    a2 * e1 + c2 * f1 + e2,
    b2 * e1 + d2 * f1 + f2,
  ];
}

export function scaling(x: number, y: number): Matrix {
  return [x, 0, 0, y, 0, 0];
}

/** Left becomes right on an image `width` wide. */
export function mirroring(width: number): Matrix {
  return [-1, 0, 0, 1, width, 0];
}

export function applyToPoint([a, b, c, d, e, f]: Matrix, x: number, y: number): [number, number] {
  return [a * x + c * y + e, b * x + d * y + f];
}

/** The inverse map; the matrix must not be singular. */
export function invert([a, b, c, d, e, f]: Matrix): Matrix {
  const determinant = a * d - b * c;
  return [
    d / determinant,
    -b / determinant,
    -c / determinant,
    a / determinant,
    (c * f - d * e) / determinant,
    (b * e - a * f) / determinant,
  ];
}

function mapPoints(matrix: Matrix, points: readonly number[]): Ring {
  const out: Ring = [];
  for (let i = 0; i + 1 < points.length; i += 2)
    out.push(...applyToPoint(matrix, points[i] as number, points[i + 1] as number));
  return out;
}

/** Relative coordinates (shares of the image's size) to pixels. */
export function scaleShape(shape: Shape, width: number, height: number): Shape {
  if (shape.kind === "mask") return shape;
  if (shape.kind === "box")
    return {
      kind: "box",
      x: shape.x * width,
      y: shape.y * height,
      width: shape.width * width,
      height: shape.height * height,
    };
  return mapShape(shape, scaling(width, height), { width, height });
}

/**
 * The shape after `matrix`, on an image of size `target`. Boxes become the box around their four corners; masks are
 * sampled at pixel centres; a rotated box stays one where the map is a similarity and becomes a polygon otherwise.
 */
export function mapShape(shape: Shape, matrix: Matrix, target: { width: number; height: number }): Shape {
  switch (shape.kind) {
    case "box": {
      const { x, y, width, height } = shape;
      const corners = mapPoints(matrix, [x, y, x + width, y, x + width, y + height, x, y + height]);
      return { kind: "box", ...(boundsOfPoints(corners) ?? { x, y, width, height }) };
    }
    case "rotated-box": {
      const [a, b, c, d] = matrix;
      const corners = mapPoints(matrix, rotatedBoxCorners(shape));
      const similarity = Math.abs(a * c + b * d) < 1e-9 && Math.abs(Math.hypot(a, b) - Math.hypot(c, d)) < 1e-9;
      if (!similarity) return { kind: "polygon", parts: [[corners]] };
      const [cx, cy] = applyToPoint(matrix, shape.cx, shape.cy);
      const factor = Math.hypot(a, b);
      const cos = Math.cos(shape.angle);
      const sin = Math.sin(shape.angle);
      const angle = Math.atan2(b * cos + d * sin, a * cos + c * sin);
      return { kind: "rotated-box", cx, cy, width: shape.width * factor, height: shape.height * factor, angle };
    }
    case "polygon":
      return { kind: "polygon", parts: shape.parts.map((part) => part.map((ring) => mapPoints(matrix, ring))) };
    case "mask":
      return mapMask(shape, matrix, target);
    case "keypoints": {
      const points = shape.points.map((point) => {
        const [x, y] = point.v > 0 ? applyToPoint(matrix, point.x, point.y) : [0, 0];
        return { x, y, v: point.v };
      });
      if (!shape.box) return { kind: "keypoints", points };
      const { x, y, width, height } = shape.box;
      const box = boundsOfPoints(mapPoints(matrix, [x, y, x + width, y, x + width, y + height, x, y + height]));
      return { kind: "keypoints", points, ...(box ? { box } : {}) };
    }
    case "line":
      return { kind: "line", points: mapPoints(matrix, shape.points) };
  }
}

function mapMask(
  shape: Extract<Shape, { kind: "mask" }>,
  matrix: Matrix,
  target: { width: number; height: number },
): Shape {
  const source = bitmapFromRuns(shape.counts, shape.width, shape.height);
  const bitmap = new Uint8Array(target.width * target.height);
  const back = invert(matrix);
  for (let y = 0; y < target.height; y++) {
    for (let x = 0; x < target.width; x++) {
      const [sx, sy] = applyToPoint(back, x + 0.5, y + 0.5);
      const column = Math.floor(sx);
      const row = Math.floor(sy);
      if (column >= 0 && row >= 0 && column < shape.width && row < shape.height)
        bitmap[y * target.width + x] = source[row * shape.width + column] as number;
    }
  }
  return {
    kind: "mask",
    width: target.width,
    height: target.height,
    counts: runsFromBitmap(bitmap, target.width, target.height),
  };
}
