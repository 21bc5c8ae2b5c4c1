/** Points drawn to what lies near them: corners and edges of other outlines, and the picture's border. */
import { lineLength } from "../geometry/line";
import type { Size } from "../model/item";
import { pathDistance, type OnPath } from "./distance";
import type { Outline } from "./outlines";

export type Snapped = {
  x: number;
  y: number;
  /** What it was drawn to; null where nothing was near. */
  to: "corner" | "edge" | "border" | null;
  /** Where on which outline, for taking over what two shapes share. */
  on?: OnPath & { outline: Outline };
};

/** The corner nearest to a point within `tolerance`, as a place on its outline. */
function nearestCorner(
  outline: Outline,
  x: number,
  y: number,
  tolerance: number,
): (OnPath & { outline: Outline }) | null {
  let nearest: (OnPath & { outline: Outline }) | null = null;
  for (let i = 0; i + 1 < outline.points.length; i += 2) {
    const distance = Math.hypot((outline.points[i] as number) - x, (outline.points[i + 1] as number) - y);
    if (distance <= Math.min(tolerance, nearest?.distance ?? Infinity))
      nearest = { distance, segment: i / 2, along: 0, outline };
  }
  return nearest;
}

const nearer = <T extends { distance: number }>(a: T | null, b: T | null) =>
  a && b ? (b.distance < a.distance ? b : a) : (a ?? b);

/** Where a place on an outline lies. */
export function placeOn({ points }: Outline, { segment, along }: OnPath): [number, number] {
  const next = (2 * segment + 2) % points.length;
  const [x1, y1] = [points[2 * segment] as number, points[2 * segment + 1] as number];
  return [x1 + along * ((points[next] as number) - x1), y1 + along * ((points[next + 1] as number) - y1)];
}

/** A point drawn to the nearest corner within `tolerance` pixels, else the nearest edge, else the picture's border. */
export function snapPoint(
  x: number,
  y: number,
  outlines: readonly Outline[],
  { width, height }: Size,
  tolerance: number,
): Snapped {
  let corner: (OnPath & { outline: Outline }) | null = null;
  let edge: (OnPath & { outline: Outline }) | null = null;
  for (const outline of outlines) {
    corner = nearer(corner, nearestCorner(outline, x, y, tolerance));
    const place = pathDistance(outline.points, outline.closed, x, y);
    if (place && place.distance <= tolerance) edge = nearer(edge, { ...place, outline });
  }
  const on = corner ?? edge;
  if (on) {
    const [px, py] = placeOn(on.outline, on);
    return { x: px, y: py, to: corner ? "corner" : "edge", on };
  }
  const toBorder = (value: number, size: number) =>
    Math.abs(value) <= tolerance ? 0 : Math.abs(value - size) <= tolerance ? size : value;
  const [bx, by] = [toBorder(x, width), toBorder(y, height)];
  return { x: bx, y: by, to: bx !== x || by !== y ? "border" : null };
}

/** The corners met on the way along an outline from one place to another, in order. */
function cornersForward({ points }: Outline, from: OnPath, to: OnPath): number[] {
  const corners = points.length / 2;
  const found: number[] = [];
  const ahead = (to.segment - from.segment + corners) % corners;
  const steps = ahead === 0 && to.along < from.along ? corners : ahead;
  for (let step = 1; step <= steps; step++) {
    const at = (from.segment + step) % corners;
    // A place that is a corner is not met on the way to itself.
    if (step === steps && to.along === 0) break;
    found.push(points[2 * at] as number, points[2 * at + 1] as number);
  }
  return found;
}

const reversed = (path: readonly number[]) =>
  Array.from({ length: path.length / 2 }, (_, i) => path.slice(path.length - 2 * i - 2, path.length - 2 * i)).flat();

/** The corners of an outline between two of its places, the shorter way round; flat coordinates, in order. */
export function sharedEdge(outline: Outline, from: OnPath, to: OnPath): number[] {
  const ends = (corners: number[]) => [...placeOn(outline, from), ...corners, ...placeOn(outline, to)];
  const isBefore = from.segment < to.segment || (from.segment === to.segment && from.along <= to.along);
  if (!outline.closed)
    return isBefore ? cornersForward(outline, from, to) : reversed(cornersForward(outline, to, from));
  const [forward, backward] = [cornersForward(outline, from, to), reversed(cornersForward(outline, to, from))];
  return lineLength(ends(forward)) <= lineLength(ends(backward)) ? forward : backward;
}
