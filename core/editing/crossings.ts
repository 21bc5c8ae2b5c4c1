/** Outlines that cross themselves. */
import { unitePolygons } from "../geometry/overlap";
import type { Part, Ring } from "../model/shape";

type Segment = { left: number; right: number; index: number; x1: number; y1: number; x2: number; y2: number };

const side = ({ x1, y1, x2, y2 }: Segment, x: number, y: number) =>
  Math.sign((x2 - x1) * (y - y1) - (y2 - y1) * (x - x1));

const cross = (a: Segment, b: Segment) =>
  side(a, b.x1, b.y1) * side(a, b.x2, b.y2) < 0 && side(b, a.x1, a.y1) * side(b, a.x2, a.y2) < 0;

/** Where two segments that cross meet. */
function meeting(a: Segment, b: Segment): [number, number] {
  const [ax, ay, bx, by] = [a.x2 - a.x1, a.y2 - a.y1, b.x2 - b.x1, b.y2 - b.y1];
  const along = ((b.x1 - a.x1) * by - (b.y1 - a.y1) * bx) / (ax * by - ay * bx);
  return [a.x1 + along * ax, a.y1 + along * ay];
}

/** The first places, `most` of them, at which a ring's sides cross; sides that only touch do not. */
export function crossingsOf(ring: Ring, most = 1): [number, number][] {
  const corners = ring.length / 2;
  const segments = Array.from({ length: corners }, (_, index): Segment => {
    const next = (index + 1) % corners;
    const [x1, y1] = [ring[2 * index] as number, ring[2 * index + 1] as number];
    const [x2, y2] = [ring[2 * next] as number, ring[2 * next + 1] as number];
    return { left: Math.min(x1, x2), right: Math.max(x1, x2), index, x1, y1, x2, y2 };
  }).sort((a, b) => a.left - b.left);
  const found: [number, number][] = [];
  let open: Segment[] = [];
  for (const segment of segments) {
    open = open.filter(({ right }) => right >= segment.left);
    for (const other of open) {
      if (!cross(segment, other)) continue;
      found.push(meeting(segment, other));
      if (found.length >= most) return found;
    }
    open.push(segment);
  }
  return found;
}

export const crossesItself = (parts: readonly Part[]): boolean =>
  parts.some((part) => part.some((ring) => crossingsOf(ring).length > 0));

/** The same area by the even–odd rule, as outlines that do not cross themselves. */
export const uncrossed = (parts: readonly Part[]): Part[] => unitePolygons(parts, []);
