/** The places by which a shape is changed, and what dragging one of them makes of it. */
import { boundsOfPoints } from "../geometry/box";
import type { Shape } from "../model/shape";

type Side = -1 | 0 | 1;
export type Grip =
  /** A corner or the middle of a side of a box, in the box's own frame. */
  | { of: "side"; x: Side; y: Side }
  /** Turns a rotated box about its middle. */
  | { of: "turn" }
  /** A corner of a ring of a polygon. */
  | { of: "corner"; part: number; ring: number; index: number }
  /** The middle between a ring's corner and the next: dragging it makes a new corner. */
  | { of: "between"; part: number; ring: number; index: number }
  /** A point of a line or a keypoint. */
  | { of: "point"; index: number }
  /** The middle between two points of a line. */
  | { of: "point-between"; index: number };

export type PlacedGrip = { grip: Grip; x: number; y: number };

const sides: readonly [Side, Side][] = [
  [-1, -1],
  [0, -1],
  [1, -1],
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
];

/** Where a place of a rotated box's own frame (−1 … 1 on each axis) lies. */
function placeIn({ cx, cy, width, height, angle }: Extract<Shape, { kind: "rotated-box" }>, u: number, v: number) {
  const [dx, dy] = [(u * width) / 2, (v * height) / 2];
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return { x: cx + dx * cos - dy * sin, y: cy + dx * sin + dy * cos };
}

/** The grips of a shape; `reach` is how far beyond its upper side a rotated box is turned by, in the picture's pixels. */
export function gripsOf(shape: Shape, reach: number): PlacedGrip[] {
  switch (shape.kind) {
    case "box":
      return sides.map(([x, y]) => ({
        grip: { of: "side", x, y },
        x: shape.x + (shape.width * (x + 1)) / 2,
        y: shape.y + (shape.height * (y + 1)) / 2,
      }));
    case "rotated-box":
      return [
        ...sides.map(([x, y]): PlacedGrip => ({ grip: { of: "side", x, y }, ...placeIn(shape, x, y) })),
        { grip: { of: "turn" }, ...placeIn(shape, 0, -1 - (2 * reach) / Math.max(shape.height, 1e-6)) },
      ];
    case "polygon":
      return shape.parts.flatMap((rings, part) =>
        rings.flatMap((points, ring) =>
          Array.from({ length: points.length / 2 }, (_, index): PlacedGrip[] => {
            const [x, y] = [points[2 * index] as number, points[2 * index + 1] as number];
            const next = (2 * index + 2) % points.length;
            const [nx, ny] = [points[next] as number, points[next + 1] as number];
            return [
              { grip: { of: "corner", part, ring, index }, x, y },
              { grip: { of: "between", part, ring, index }, x: (x + nx) / 2, y: (y + ny) / 2 },
            ];
          }).flat(),
        ),
      );
    case "line":
      return Array.from({ length: shape.points.length / 2 }, (_, index): PlacedGrip[] => {
        const [x, y] = [shape.points[2 * index] as number, shape.points[2 * index + 1] as number];
        const own: PlacedGrip = { grip: { of: "point", index }, x, y };
        if (2 * index + 3 >= shape.points.length) return [own];
        const [nx, ny] = [shape.points[2 * index + 2] as number, shape.points[2 * index + 3] as number];
        return [own, { grip: { of: "point-between", index }, x: (x + nx) / 2, y: (y + ny) / 2 }];
      }).flat();
    case "keypoints":
      return shape.points.flatMap(({ x, y, v }, index) =>
        v > 0 ? [{ grip: { of: "point", index } as const, x, y }] : [],
      );
    case "mask":
      return [];
  }
}

/** The grip nearest to a point within `tolerance` pixels; of those as near, corners before middles. */
export function gripAt(grips: readonly PlacedGrip[], x: number, y: number, tolerance: number): PlacedGrip | null {
  const isMiddle = ({ grip }: PlacedGrip) => grip.of === "between" || grip.of === "point-between";
  let nearest: PlacedGrip | null = null;
  let least = Infinity;
  for (const placed of grips) {
    const distance = Math.hypot(placed.x - x, placed.y - y);
    if (distance > tolerance) continue;
    // Where corners lie close together, a middle between two of them is out of the way.
    const weight = distance + (isMiddle(placed) ? tolerance : 0);
    if (weight >= least) continue;
    [nearest, least] = [placed, weight];
  }
  return nearest;
}

const replaced = (points: readonly number[], index: number, x: number, y: number) =>
  points.map((value, at) => (at === 2 * index ? x : at === 2 * index + 1 ? y : value));

const inserted = (points: readonly number[], index: number, x: number, y: number) => [
  ...points.slice(0, 2 * index + 2),
  x,
  y,
  ...points.slice(2 * index + 2),
];

const without = (points: readonly number[], index: number) => [
  ...points.slice(0, 2 * index),
  ...points.slice(2 * index + 2),
];

function withRing(
  shape: Extract<Shape, { kind: "polygon" }>,
  part: number,
  ring: number,
  change: (points: readonly number[]) => number[],
): Shape {
  const parts = shape.parts.map((rings, p) =>
    p === part ? rings.map((points, r) => (r === ring ? change(points) : points)) : rings,
  );
  return { kind: "polygon", parts };
}

/** One axis of a box with one of its ends, or neither, put at `to`; an end that passes the other changes places with it. */
function axis(from: number, size: number, side: Side, to: number): [number, number] {
  const [near, far] = side === -1 ? [to, from + size] : side === 1 ? [from, to] : [from, from + size];
  return near <= far ? [near, far - near] : [far, near - far];
}

function dragSide(
  shape: Extract<Shape, { kind: "rotated-box" }>,
  x: Side,
  y: Side,
  to: { x: number; y: number },
): Shape {
  const [cos, sin] = [Math.cos(shape.angle), Math.sin(shape.angle)];
  const [dx, dy] = [to.x - shape.cx, to.y - shape.cy];
  const [u, v] = [dx * cos + dy * sin, dy * cos - dx * sin];
  const [left, width] = axis(-shape.width / 2, shape.width, x, u);
  const [top, height] = axis(-shape.height / 2, shape.height, y, v);
  const [mx, my] = [left + width / 2, top + height / 2];
  return { ...shape, width, height, cx: shape.cx + mx * cos - my * sin, cy: shape.cy + mx * sin + my * cos };
}

/** The angle within −π < angle ≤ π. */
const turned = (angle: number) => angle - 2 * Math.PI * Math.ceil((angle - Math.PI) / (2 * Math.PI));

/**
 * The shape with a grip dragged to a point. `steps` of a turn, where asked for, keep angles to multiples of it (radians).
 * A grip that the shape does not have leaves it as it is.
 */
export function dragGrip(shape: Shape, grip: Grip, x: number, y: number, steps = 0): Shape {
  switch (shape.kind) {
    case "box": {
      if (grip.of !== "side") return shape;
      const [left, width] = axis(shape.x, shape.width, grip.x, x);
      const [top, height] = axis(shape.y, shape.height, grip.y, y);
      return { kind: "box", x: left, y: top, width, height };
    }
    case "rotated-box": {
      if (grip.of === "side") return dragSide(shape, grip.x, grip.y, { x, y });
      if (grip.of !== "turn") return shape;
      const angle = Math.atan2(y - shape.cy, x - shape.cx) + Math.PI / 2;
      return { ...shape, angle: turned(steps > 0 ? Math.round(angle / steps) * steps : angle) };
    }
    case "polygon":
      if (grip.of === "corner")
        return withRing(shape, grip.part, grip.ring, (points) => replaced(points, grip.index, x, y));
      if (grip.of === "between")
        return withRing(shape, grip.part, grip.ring, (points) => inserted(points, grip.index, x, y));
      return shape;
    case "line":
      if (grip.of === "point") return { kind: "line", points: replaced(shape.points, grip.index, x, y) };
      if (grip.of === "point-between") return { kind: "line", points: inserted(shape.points, grip.index, x, y) };
      return shape;
    case "keypoints": {
      if (grip.of !== "point") return shape;
      const points = shape.points.map((point, index) => (index === grip.index ? { ...point, x, y } : point));
      return { ...shape, points, ...(shape.box ? { box: boxAround(shape.box, x, y) } : {}) };
    }
    case "mask":
      return shape;
  }
}

/** The box widened so that it holds a point. */
function boxAround(box: { x: number; y: number; width: number; height: number }, x: number, y: number) {
  return boundsOfPoints([box.x, box.y, box.x + box.width, box.y + box.height, x, y]) ?? box;
}

/**
 * The shape without the corner or point of a grip; null where what is left would be none: a hole goes with its third
 * corner, a part with its outer ring.
 */
export function removeCorner(shape: Shape, grip: Grip): Shape | null {
  if (shape.kind === "line" && grip.of === "point") {
    const points = without(shape.points, grip.index);
    return points.length >= 4 ? { kind: "line", points } : null;
  }
  if (shape.kind === "keypoints" && grip.of === "point") {
    const points = shape.points.map((point, index) => (index === grip.index ? { x: 0, y: 0, v: 0 as const } : point));
    return points.some(({ v }) => v > 0) ? { ...shape, points } : null;
  }
  if (shape.kind !== "polygon" || grip.of !== "corner") return shape;
  const parts = shape.parts.flatMap((rings, part) => {
    if (part !== grip.part) return [rings];
    const kept = rings.flatMap((points, ring) => {
      if (ring !== grip.ring) return [points];
      const rest = without(points, grip.index);
      return rest.length >= 6 ? [rest] : [];
    });
    // Holes of a ring that is gone are holes of nothing.
    return kept.length === 0 || (grip.ring === 0 && kept.length < rings.length) ? [] : [kept];
  });
  return parts.length > 0 ? { kind: "polygon", parts } : null;
}
