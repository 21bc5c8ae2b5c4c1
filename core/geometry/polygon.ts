import type { Part, Ring } from "../model/shape";

/** Signed area by the shoelace formula; positive where the ring runs clockwise on screen (y down). */
export function signedRingArea(ring: Ring): number {
  let twice = 0;
  for (let i = 0, j = ring.length - 2; i + 1 < ring.length; j = i, i += 2) {
    twice += (ring[j] as number) * (ring[i + 1] as number) - (ring[i] as number) * (ring[j + 1] as number);
  }
  return twice / 2;
}

/** Area in square pixels: outer rings minus holes, summed over parts that do not overlap. */
export function polygonArea(parts: readonly Part[]): number {
  let area = 0;
  for (const part of parts) {
    part.forEach((ring, index) => {
      area += (index === 0 ? 1 : -1) * Math.abs(signedRingArea(ring));
    });
  }
  return area;
}

/**
 * First moments in cubic pixels: the integrals of x and of y over the area, outer rings minus holes. Bourke, "Calculating
 * the area and centroid of a polygon" (1988).
 */
export function polygonMoments(parts: readonly Part[]): [x: number, y: number] {
  const moments: [number, number] = [0, 0];
  for (const part of parts) {
    part.forEach((ring, index) => {
      let [x, y] = [0, 0];
      for (let i = 0, j = ring.length - 2; i + 1 < ring.length; j = i, i += 2) {
        const [x0, y0, x1, y1] = [ring[j], ring[j + 1], ring[i], ring[i + 1]] as [number, number, number, number];
        const cross = x0 * y1 - x1 * y0;
        x += (x0 + x1) * cross;
        y += (y0 + y1) * cross;
      }
      // Which way a ring runs says nothing of what it encloses.
      const sign = (index === 0 ? 1 : -1) * Math.sign(signedRingArea(ring));
      moments[0] += (sign * x) / 6;
      moments[1] += (sign * y) / 6;
    });
  }
  return moments;
}

type Side = { axis: 0 | 1; limit: number; keepBelow: boolean };

function clipAgainst(ring: Ring, { axis, limit, keepBelow }: Side): Ring {
  const out: Ring = [];
  const inside = (value: number) => (keepBelow ? value <= limit : value >= limit);
  for (let i = 0; i + 1 < ring.length; i += 2) {
    const j = (i + ring.length - 2) % ring.length;
    const from = [ring[j] as number, ring[j + 1] as number] as const;
    const to = [ring[i] as number, ring[i + 1] as number] as const;
    const fromInside = inside(from[axis]);
    const toInside = inside(to[axis]);
    if (fromInside !== toInside) {
      const share = (limit - from[axis]) / (to[axis] - from[axis]);
      const crossing: [number, number] = [from[0] + share * (to[0] - from[0]), from[1] + share * (to[1] - from[1])];
      crossing[axis] = limit;
      out.push(...crossing);
    }
    if (toInside) out.push(to[0], to[1]);
  }
  return out;
}

/**
 * The part of a ring inside [0, width] × [0, height]. Sutherland & Hodgman, "Reentrant polygon clipping",
 * CACM 17 (1974). A concave ring cut in several pieces comes out as one ring joined along the edge, with the right
 * area.
 */
export function clipRing(ring: Ring, width: number, height: number): Ring {
  const sides: Side[] = [
    { axis: 0, limit: 0, keepBelow: false },
    { axis: 0, limit: width, keepBelow: true },
    { axis: 1, limit: 0, keepBelow: false },
    { axis: 1, limit: height, keepBelow: true },
  ];
  return sides.reduce(clipAgainst, ring);
}

/** Even–odd test of a point against one ring. */
export function ringContains(ring: Ring, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = ring.length - 2; i + 1 < ring.length; j = i, i += 2) {
    const xi = ring[i] as number;
    const yi = ring[i + 1] as number;
    const xj = ring[j] as number;
    const yj = ring[j + 1] as number;
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
  }
  return inside;
}
