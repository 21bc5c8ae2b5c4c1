import type { Part, Ring } from "../model/shape";
import { signedRingArea } from "./polygon";

function clockwise(ring: Ring): Ring {
  if (signedRingArea(ring) >= 0) return ring;
  const turned: Ring = [];
  for (let i = ring.length - 2; i >= 0; i -= 2) turned.push(ring[i] as number, ring[i + 1] as number);
  return turned;
}

function startingAt(ring: Ring, at: number): Ring {
  return [...ring.slice(at), ...ring.slice(0, at)];
}

/**
 * One ring that runs through the outer rings of all parts, tied together by the shortest bridges between their corners,
 * each walked there and back, so that the area stays the same. Holes are left out.
 */
export function joinParts(parts: readonly Part[]): Part {
  const rings = parts.flatMap((part) => (part[0] ? [clockwise(part[0])] : []));
  let joined = rings.shift() ?? [];
  while (rings.length > 0) {
    let best = { distance: Infinity, ring: 0, here: 0, there: 0 };
    rings.forEach((ring, number) => {
      for (let here = 0; here < joined.length; here += 2) {
        for (let there = 0; there < ring.length; there += 2) {
          const distance =
            ((joined[here] as number) - (ring[there] as number)) ** 2 +
            ((joined[here + 1] as number) - (ring[there + 1] as number)) ** 2;
          if (distance < best.distance) best = { distance, ring: number, here, there };
        }
      }
    });
    const [next] = rings.splice(best.ring, 1) as [Ring];
    const across = startingAt(next, best.there);
    joined = [...joined.slice(0, best.here + 2), ...across, ...across.slice(0, 2), ...joined.slice(best.here)];
  }
  return [joined];
}
