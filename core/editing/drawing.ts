/** What is being drawn, from its first point to the shape that comes of it. */
import { minimumAreaBox } from "../geometry/minimum-area-box";
import type { Box, Keypoint, Shape } from "../model/shape";
import type { Point } from "./view";

/** The box with two points as its corners, whichever they are. */
export function boxBetween([x1, y1]: Point, [x2, y2]: Point): Box {
  return { x: Math.min(x1, x2), y: Math.min(y1, y2), width: Math.abs(x2 - x1), height: Math.abs(y2 - y1) };
}

/** The rotated box with one side from `a` to `b` whose opposite side runs through `c`; null where two of them are one. */
export function boxOnEdge([ax, ay]: Point, [bx, by]: Point, [cx, cy]: Point): Shape | null {
  const width = Math.hypot(bx - ax, by - ay);
  if (width === 0) return null;
  const [ux, uy] = [(bx - ax) / width, (by - ay) / width];
  // How far `c` lies to the right of the side, seen along it: below, where it runs to the right on the screen.
  const away = ux * (cy - ay) - uy * (cx - ax);
  const height = Math.abs(away);
  if (height === 0) return null;
  return {
    kind: "rotated-box",
    cx: (ax + bx) / 2 - (uy * away) / 2,
    cy: (ay + by) / 2 + (ux * away) / 2,
    width,
    height,
    // Drawn to the other side, the box stands on the side that was drawn first.
    angle: Math.atan2(uy, ux),
  };
}

/** The path with a point added, unless it is where the path ends. */
export function withPoint(path: readonly number[], [x, y]: Point): number[] {
  return path.at(-2) === x && path.at(-1) === y ? [...path] : [...path, x, y];
}

/** The path drawn freehand: a point is added once it is `gap` pixels away from the last. */
export function withFreehandPoint(path: readonly number[], [x, y]: Point, gap: number): number[] {
  const [px, py] = [path.at(-2), path.at(-1)];
  return px !== undefined && py !== undefined && Math.hypot(x - px, y - py) < gap ? [...path] : [...path, x, y];
}

/** Whether a point closes a ring: it has three corners and the point is within `tolerance` pixels of the first. */
export function closesRing(path: readonly number[], [x, y]: Point, tolerance: number): boolean {
  return path.length >= 6 && Math.hypot(x - (path[0] as number), y - (path[1] as number)) <= tolerance;
}

/** The polygon or line of a path; null where it has too few points for one. */
export function shapeOfPath(kind: "polygon" | "line", path: readonly number[]): Shape | null {
  if (kind === "line") return path.length >= 4 ? { kind: "line", points: [...path] } : null;
  return path.length >= 6 ? { kind: "polygon", parts: [[[...path]]] } : null;
}

/** The points of a skeleton of `count` after the next was said to be at a place, hidden there, or not in the picture. */
export function withKeypoint(points: readonly Keypoint[], at: Point | null, hidden: boolean): Keypoint[] {
  return [...points, at ? { x: at[0], y: at[1], v: hidden ? 1 : 2 } : { x: 0, y: 0, v: 0 }];
}

/** Keypoints as a shape, those that were not come to as not there; null where none is. */
export function shapeOfKeypoints(points: readonly Keypoint[], count: number): Shape | null {
  if (!points.some(({ v }) => v > 0)) return null;
  const missing = Array.from({ length: Math.max(0, count - points.length) }, (): Keypoint => ({ x: 0, y: 0, v: 0 }));
  return { kind: "keypoints", points: [...points, ...missing] };
}

/** Whether a shape is too small to be meant: none of its sides, or its length, is `least` pixels. */
export function isAccident(shape: Shape, least: number): boolean {
  switch (shape.kind) {
    case "box":
    case "rotated-box":
      return shape.width < least || shape.height < least;
    case "polygon": {
      const box = minimumAreaBox(shape.parts.flatMap((part) => part[0] ?? []));
      return !box || box.width < least || box.height < least;
    }
    case "line": {
      const [x1, y1] = [shape.points[0] as number, shape.points[1] as number];
      return !shape.points.some((value, i) => Math.abs(value - (i % 2 === 0 ? x1 : y1)) >= least);
    }
    case "mask":
    case "keypoints":
      return false;
  }
}
