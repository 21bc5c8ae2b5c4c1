/** The rotated box of least area around points. */
import type { Shape } from "../model/shape";

/** Convex hull, counter-clockwise in a y-up frame, without repeats: Andrew's monotone chain, IPL 9 (1979). */
export function convexHull(points: readonly number[]): [number, number][] {
  const sorted: [number, number][] = [];
  for (let i = 0; i + 1 < points.length; i += 2) sorted.push([points[i] as number, points[i + 1] as number]);
  sorted.sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const chain = (list: [number, number][]) => {
    const hull: [number, number][] = [];
    for (const point of list) {
      while (hull.length >= 2) {
        const [a, b] = [hull[hull.length - 2] as [number, number], hull[hull.length - 1] as [number, number]];
        if ((b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0]) > 0) break;
        hull.pop();
      }
      hull.push(point);
    }
    hull.pop();
    return hull;
  };
  if (sorted.length < 3) return sorted;
  return [...chain(sorted), ...chain([...sorted].reverse())];
}

/**
 * The rotated box of least area around flat points; null without a point. One of its sides lies along a side of the
 * convex hull (Freeman & Shapira, CACM 18, 1975). `angle` is in radians, clockwise on screen, −π/4 < angle ≤ π/4.
 */
export function minimumAreaBox(points: readonly number[]): Extract<Shape, { kind: "rotated-box" }> | null {
  const hull = convexHull(points);
  if (hull.length === 0) return null;
  let best: Extract<Shape, { kind: "rotated-box" }> | null = null;
  for (let i = 0; i < hull.length; i++) {
    const [x1, y1] = hull[i] as [number, number];
    const [x2, y2] = hull[(i + 1) % hull.length] as [number, number];
    // Any side of the box may be the one along the hull, so a quarter turn is as good: the angle nearest 0 is taken.
    const along = Math.atan2(y2 - y1, x2 - x1);
    const angle = along - (Math.PI / 2) * Math.round(along / (Math.PI / 2));
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
    for (const [x, y] of hull) {
      const u = x * cos + y * sin;
      const v = y * cos - x * sin;
      left = Math.min(left, u);
      right = Math.max(right, u);
      top = Math.min(top, v);
      bottom = Math.max(bottom, v);
    }
    const [width, height] = [right - left, bottom - top];
    if (best && width * height >= best.width * best.height) continue;
    const [u, v] = [(left + right) / 2, (top + bottom) / 2];
    best = { kind: "rotated-box", cx: u * cos - v * sin, cy: u * sin + v * cos, width, height, angle };
  }
  return best;
}

/**
 * The rotated box whose corners, in order, are the four flat points; null where they are no rectangle within
 * `tolerance` pixels.
 */
export function rotatedBoxFromCorners(
  corners: readonly number[],
  tolerance: number,
): Extract<Shape, { kind: "rotated-box" }> | null {
  if (corners.length !== 8) return null;
  const [x1, y1, x2, y2, x3, y3, x4, y4] = corners as [number, number, number, number, number, number, number, number];
  if (Math.abs(x1 + x3 - x2 - x4) > tolerance || Math.abs(y1 + y3 - y2 - y4) > tolerance) return null;
  const width = (Math.hypot(x2 - x1, y2 - y1) + Math.hypot(x3 - x4, y3 - y4)) / 2;
  const height = (Math.hypot(x4 - x1, y4 - y1) + Math.hypot(x3 - x2, y3 - y2)) / 2;
  // Both diagonals of a rectangle are as long.
  if (Math.abs(Math.hypot(x3 - x1, y3 - y1) - Math.hypot(x4 - x2, y4 - y2)) > tolerance) return null;
  const angle = width > 0 ? Math.atan2(y2 - y1 + y3 - y4, x2 - x1 + x3 - x4) : Math.atan2(x1 - x4, y4 - y1);
  return { kind: "rotated-box", cx: (x1 + x2 + x3 + x4) / 4, cy: (y1 + y2 + y3 + y4) / 4, width, height, angle };
}
