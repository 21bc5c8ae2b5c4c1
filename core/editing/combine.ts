/** Areas joined, cut out of each other, and cut in two. Where one of them is a mask, so is what comes of them. */
import { intersectPolygons, subtractPolygons, unitePolygons } from "../geometry/overlap";
import { shapeBounds } from "../geometry/shape";
import type { Size } from "../model/item";
import type { Part, Shape } from "../model/shape";
import { maskOfPiece, pieceAround, pieceOf } from "./mask-shape";
import { areaParts } from "./outlines";

type Pixelwise = (a: number, b: number) => number;
type Polygonwise = (a: readonly Part[], b: readonly Part[]) => Part[];

/** What two areas come to; null where nothing is left, or where one is no area. */
function combined(a: Shape, b: Shape, size: Size, polygons: Polygonwise, pixels: Pixelwise): Shape | null {
  const [ours, theirs] = [areaParts(a), areaParts(b)];
  if (!ours || !theirs) return null;
  if (a.kind !== "mask" && b.kind !== "mask") {
    const parts = polygons(ours, theirs);
    return parts.length > 0 ? { kind: "polygon", parts } : null;
  }
  const around = pieceAround(
    [a, b].flatMap((shape) => shapeBounds(shape) ?? []),
    0,
    size,
  );
  if (!around) return null;
  const [piece, other] = [pieceOf(a, around), pieceOf(b, around).bitmap];
  piece.bitmap.forEach((pixel, at) => (piece.bitmap[at] = pixels(pixel, other[at] as number)));
  return maskOfPiece(piece, size);
}

/** The area that any of several shapes covers; null where one of them is no area. */
export function merged(shapes: readonly Shape[], size: Size): Shape | null {
  const [first, ...rest] = shapes;
  return rest.reduce<Shape | null>(
    (sum, shape) => sum && combined(sum, shape, size, unitePolygons, (a, b) => a | b),
    first ?? null,
  );
}

/** The area of `shape` that `hole` does not cover; null where nothing is left. */
export const cutOut = (shape: Shape, hole: Shape, size: Size): Shape | null =>
  combined(shape, hole, size, subtractPolygons, (a, b) => a & ~b & 1);

/** Where a ray from a point through a direction leaves a frame, as the way along the frame's border from its first corner. */
function leaving(
  frame: { left: number; top: number; right: number; bottom: number },
  [x, y]: readonly [number, number],
  [dx, dy]: readonly [number, number],
): { x: number; y: number; way: number } {
  const [width, height] = [frame.right - frame.left, frame.bottom - frame.top];
  const times = [
    dx > 0 ? (frame.right - x) / dx : dx < 0 ? (frame.left - x) / dx : Infinity,
    dy > 0 ? (frame.bottom - y) / dy : dy < 0 ? (frame.top - y) / dy : Infinity,
  ] as const;
  const time = Math.min(...times);
  const [px, py] = [x + dx * time, y + dy * time];
  if (times[0] <= times[1])
    return dx > 0
      ? { x: px, y: py, way: width + (py - frame.top) }
      : { x: px, y: py, way: 2 * width + height + (frame.bottom - py) };
  return dy > 0 ? { x: px, y: py, way: width + height + (frame.right - px) } : { x: px, y: py, way: px - frame.left };
}

/**
 * The two sides of a line that is drawn on beyond both of its ends, within a frame around `shape`: what lies to its right
 * hand and what lies to its left. Null for a line of one point.
 */
function sidesOf(line: readonly number[], shape: Shape): [Part, Part] | null {
  const bounds = shapeBounds(shape);
  const points = Array.from({ length: line.length / 2 }, (_, i): [number, number] => [
    line[2 * i] as number,
    line[2 * i + 1] as number,
  ]).filter(([x, y], i, all) => i === 0 || x !== all[i - 1]?.[0] || y !== all[i - 1]?.[1]);
  const [first, second] = points;
  const [last, beforeLast] = [points.at(-1), points.at(-2)];
  if (!bounds || !first || !second || !last || !beforeLast) return null;
  const margin = 10;
  const frame = {
    left: Math.min(bounds.x, ...points.map(([x]) => x)) - margin,
    top: Math.min(bounds.y, ...points.map(([, y]) => y)) - margin,
    right: Math.max(bounds.x + bounds.width, ...points.map(([x]) => x)) + margin,
    bottom: Math.max(bounds.y + bounds.height, ...points.map(([, y]) => y)) + margin,
  };
  const start = leaving(frame, first, [first[0] - second[0], first[1] - second[1]]);
  const end = leaving(frame, last, [last[0] - beforeLast[0], last[1] - beforeLast[1]]);
  const path = [start.x, start.y, ...points.flat(), end.x, end.y];
  const [width, height] = [frame.right - frame.left, frame.bottom - frame.top];
  const corners = [
    { way: width, x: frame.right, y: frame.top },
    { way: width + height, x: frame.right, y: frame.bottom },
    { way: 2 * width + height, x: frame.left, y: frame.bottom },
    { way: 2 * (width + height), x: frame.left, y: frame.top },
  ];
  const around = 2 * (width + height);
  /** The frame's corners met on the way from one place of the border clockwise to another. */
  const between = (from: number, to: number) =>
    corners
      .map(({ way, x, y }) => ({ ahead: (way - from + around) % around, x, y }))
      .filter(({ ahead }) => ahead > 0 && ahead < (to - from + around) % around)
      .sort((a, b) => a.ahead - b.ahead)
      .flatMap(({ x, y }) => [x, y]);
  const backwards = Array.from({ length: path.length / 2 }, (_, i) =>
    path.slice(-2 * i - 2, path.length - 2 * i),
  ).flat();
  return [[[...path, ...between(end.way, start.way)]], [[...backwards, ...between(start.way, end.way)]]];
}

/**
 * An area cut in two along a line that is drawn on beyond both of its ends; null where it misses the area, or where the
 * shape is none.
 */
export function splitAlong(shape: Shape, line: readonly number[], size: Size): [Shape, Shape] | null {
  const sides = areaParts(shape) && sidesOf(line, shape);
  if (!sides) return null;
  const [one, other] = sides.map((part) =>
    combined(shape, { kind: "polygon", parts: [part] }, size, intersectPolygons, (a, b) => a & b),
  );
  return one && other ? [one, other] : null;
}
