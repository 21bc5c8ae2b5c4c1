import type { Box } from "../model/shape";

/** Area in square pixels; 0 for a box without extent. */
export function boxArea(box: Box): number {
  return Math.max(0, box.width) * Math.max(0, box.height);
}

/** The part of `box` inside [0, width] × [0, height]; its extent may come out as 0. */
export function clipBox(box: Box, width: number, height: number): Box {
  const left = Math.min(Math.max(box.x, 0), width);
  const top = Math.min(Math.max(box.y, 0), height);
  const right = Math.min(Math.max(box.x + box.width, 0), width);
  const bottom = Math.min(Math.max(box.y + box.height, 0), height);
  const inside = box.x >= 0 && box.y >= 0 && box.x + box.width <= width && box.y + box.height <= height;
  return inside ? { ...box } : { x: left, y: top, width: Math.max(0, right - left), height: Math.max(0, bottom - top) };
}

/** Intersection over union of two boxes, 0…1. */
export function boxIntersectionOverUnion(a: Box, b: Box): number {
  const width = Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x);
  const height = Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y);
  if (width <= 0 || height <= 0) return 0;
  const overlap = width * height;
  return overlap / (boxArea(a) + boxArea(b) - overlap);
}

/** The smallest box around flat coordinates `[x1, y1, …]`; null where there is none. */
export function boundsOfPoints(points: readonly number[]): Box | null {
  if (points.length < 2) return null;
  let left = Infinity;
  let top = Infinity;
  let right = -Infinity;
  let bottom = -Infinity;
  for (let i = 0; i + 1 < points.length; i += 2) {
    const x = points[i] as number;
    const y = points[i + 1] as number;
    if (x < left) left = x;
    if (x > right) right = x;
    if (y < top) top = y;
    if (y > bottom) bottom = y;
  }
  return { x: left, y: top, width: right - left, height: bottom - top };
}
