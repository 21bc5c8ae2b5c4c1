/**
 * Projective maps on points and shapes. A matrix is 3 × 3, row by row: (x, y) goes to
 * ((m0·x + m1·y + m2) / w, (m3·x + m4·y + m5) / w) with w = m6·x + m7·y + m8. Frame: continuous pixels, origin top left.
 */
import type { Ring, Shape } from "../model/shape";
import { rotatedBoxCorners } from "./shape";
import { bitmapFromRuns, runsFromBitmap } from "./run-length";
import { boundsOfPoints } from "./box";

export type Matrix = readonly [number, number, number, number, number, number, number, number, number];

export const identity: Matrix = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The affine map that sends (x, y) to (a·x + c·y + e, b·x + d·y + f). */
export function affine(a: number, b: number, c: number, d: number, e: number, f: number): Matrix {
  return [a, c, e, b, d, f, 0, 0, 1];
}

/** The map that does `first`, then `second`. */
export function compose(first: Matrix, second: Matrix): Matrix {
  const [a, b, c, d, e, f, g, h, i] = first;
  const [p, q, r, s, t, u, v, w, x] = second;
  return [
    p * a + q * d + r * g,
    p * b + q * e + r * h,
    p * c + q * f + r * i,
    s * a + t * d + u * g,
    s * b + t * e + u * h,
    s * c + t * f + u * i,
    v * a + w * d + x * g,
    v * b + w * e + x * h,
    v * c + w * f + x * i,
  ];
}

export function scaling(x: number, y: number): Matrix {
  return affine(x, 0, 0, y, 0, 0);
}

export function translation(x: number, y: number): Matrix {
  return affine(1, 0, 0, 1, x, y);
}

/** Left becomes right on an image `width` wide. */
export function mirroring(width: number): Matrix {
  return affine(-1, 0, 0, 1, width, 0);
}

/** The map `about` a point instead of the origin. */
export function centred(map: Matrix, x: number, y: number): Matrix {
  return compose(compose(translation(-x, -y), map), translation(x, y));
}

export function isAffine(matrix: Matrix): boolean {
  return matrix[6] === 0 && matrix[7] === 0;
}

/** Whether the map turns left and right about, as a mirror does. */
export function isMirroring(matrix: Matrix): boolean {
  return determinant(matrix) < 0;
}

export function isIdentity(matrix: Matrix): boolean {
  return matrix.every((value, at) => value === identity[at]);
}

export function applyToPoint([a, b, c, d, e, f, g, h, i]: Matrix, x: number, y: number): [number, number] {
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

function determinant([a, b, c, d, e, f, g, h, i]: Matrix): number {
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
}

/** The inverse map, scaled so that its last number is 1 for an affine one; the matrix must not be singular. */
export function invert(matrix: Matrix): Matrix {
  const [a, b, c, d, e, f, g, h, i] = matrix;
  const scale = 1 / determinant(matrix);
  const inverse = [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ].map((value) => value * scale) as unknown as Matrix;
  return isAffine(matrix) ? ([...inverse.slice(0, 6), 0, 0, 1] as unknown as Matrix) : inverse;
}

/** Flat coordinates `[x1, y1, …]` after the map. */
export function mapPoints(matrix: Matrix, points: readonly number[]): Ring {
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
      const [a, c, , b, d] = matrix;
      const corners = mapPoints(matrix, rotatedBoxCorners(shape));
      const factor = Math.hypot(a, b);
      const similarity =
        isAffine(matrix) &&
        Math.abs(a * c + b * d) < 1e-9 * factor * factor &&
        Math.abs(factor - Math.hypot(c, d)) < 1e-9 * factor;
      if (!similarity) return { kind: "polygon", parts: [[corners]] };
      const [cx, cy] = applyToPoint(matrix, shape.cx, shape.cy);
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
  const [a, b, c, d, e, f, g, h, i] = invert(matrix);
  for (let y = 0; y < target.height; y++) {
    const py = y + 0.5;
    for (let x = 0; x < target.width; x++) {
      const px = x + 0.5;
      const w = g * px + h * py + i;
      const column = Math.floor((a * px + b * py + c) / w);
      const row = Math.floor((d * px + e * py + f) / w);
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
