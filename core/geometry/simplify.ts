import simplifyLine from "simplify-js";
import type { Ring } from "../model/shape";

/**
 * The ring with fewer corners; no corner of the old one lies further than `tolerance` pixels from the new outline
 * (Douglas & Peucker, Cartographica 10, 1973). A ring of three corners or fewer comes back as it is.
 */
export function simplifyRing(ring: Ring, tolerance: number): Ring {
  if (ring.length <= 6) return ring;
  const points = Array.from({ length: ring.length / 2 }, (_, i) => ({
    x: ring[2 * i] as number,
    y: ring[2 * i + 1] as number,
  }));
  const first = points[0] as { x: number; y: number };
  // A closed ring is cut at the corner farthest from its first, so that both halves have ends to hold on to.
  let far = 0;
  points.forEach((point, i) => {
    const other = points[far] as { x: number; y: number };
    if ((point.x - first.x) ** 2 + (point.y - first.y) ** 2 > (other.x - first.x) ** 2 + (other.y - first.y) ** 2)
      far = i;
  });
  const halves = [points.slice(0, far + 1), [...points.slice(far), first]].map((half) =>
    simplifyLine(half, tolerance, true),
  );
  const kept = [...(halves[0] ?? []).slice(0, -1), ...(halves[1] ?? []).slice(0, -1)];
  return kept.length >= 3 ? kept.flatMap(({ x, y }) => [x, y]) : ring;
}

/** The path with fewer points, its ends kept; none of the old ones lies further than `tolerance` pixels from it. */
export function simplifyPath(path: readonly number[], tolerance: number): number[] {
  const points = Array.from({ length: path.length / 2 }, (_, i) => ({
    x: path[2 * i] as number,
    y: path[2 * i + 1] as number,
  }));
  return simplifyLine(points, tolerance, true).flatMap(({ x, y }) => [x, y]);
}
