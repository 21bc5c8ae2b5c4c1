/** Which object lies under the pointer. */
import { partsContain } from "../geometry/covered-share";
import { shapeArea, shapeBounds } from "../geometry/shape";
import type { Shape } from "../model/shape";
import { pathDistance } from "./distance";
import { areaParts, outlinesOf } from "./outlines";

export type Placed = { uid: string; shape: Shape };

/** Whether a mask holds the pixel that a point lies in. */
function maskHolds({ counts, width, height }: Extract<Shape, { kind: "mask" }>, x: number, y: number): boolean {
  const [column, row] = [Math.floor(x), Math.floor(y)];
  if (column < 0 || row < 0 || column >= width || row >= height) return false;
  const wanted = column * height + row;
  let at = 0;
  for (let i = 0; i < counts.length; i++) {
    at += counts[i] as number;
    if (wanted < at) return i % 2 === 1;
  }
  return false;
}

/** Whether a point lies in the area of a shape; lines have none, keypoints that of their box. */
export function holdsPoint(shape: Shape, x: number, y: number): boolean {
  if (shape.kind === "mask") return maskHolds(shape, x, y);
  if (shape.kind === "keypoints" || shape.kind === "box") {
    const box = shapeBounds(shape);
    return box !== null && x >= box.x && y >= box.y && x < box.x + box.width && y < box.y + box.height;
  }
  return partsContain(areaParts(shape) ?? [], x, y);
}

/** Whether a point lies within `tolerance` pixels of a shape's lines or of one of its visible points. */
export function isNearOutline(shape: Shape, x: number, y: number, tolerance: number): boolean {
  if (
    shape.kind === "keypoints" &&
    shape.points.some((point) => point.v > 0 && Math.hypot(point.x - x, point.y - y) <= tolerance)
  )
    return true;
  return outlinesOf(shape).some(
    ({ points, closed }) => (pathDistance(points, closed, x, y)?.distance ?? Infinity) <= tolerance,
  );
}

function mayReach(shape: Shape, x: number, y: number, tolerance: number): boolean {
  const box = shapeBounds(shape);
  return (
    box !== null &&
    x >= box.x - tolerance &&
    y >= box.y - tolerance &&
    x <= box.x + box.width + tolerance &&
    y <= box.y + box.height + tolerance
  );
}

/**
 * The object meant by a point: the topmost whose line is within `tolerance` pixels, else the smallest that holds the
 * point, so that none is out of reach under a larger one. `objects` in drawing order, lowest first.
 */
export function objectAt<T extends Placed>(objects: readonly T[], x: number, y: number, tolerance: number): T | null {
  const near = objects.filter(({ shape }) => mayReach(shape, x, y, tolerance));
  const onLine = near.findLast(({ shape }) => isNearOutline(shape, x, y, tolerance));
  if (onLine) return onLine;
  let meant: T | null = null;
  let least = Infinity;
  for (const object of near) {
    if (!holdsPoint(object.shape, x, y)) continue;
    const area = shapeArea(object.shape);
    if (area > least) continue;
    [meant, least] = [object, area];
  }
  return meant;
}

/** The objects whose box lies wholly within a frame. */
export function objectsWithin<T extends Placed>(
  objects: readonly T[],
  frame: { x: number; y: number; width: number; height: number },
): T[] {
  return objects.filter(({ shape }) => {
    const box = shapeBounds(shape);
    return (
      box !== null &&
      box.x >= frame.x &&
      box.y >= frame.y &&
      box.x + box.width <= frame.x + frame.width &&
      box.y + box.height <= frame.y + frame.height
    );
  });
}
