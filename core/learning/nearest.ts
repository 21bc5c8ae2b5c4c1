/**
 * The nearest neighbours of features among many: exact where they are few; else only the groups around the nearest of some
 * of them are looked at (inverted lists: Sivic & Zisserman, Video Google, ICCV 2003).
 */
import { featureLength } from "./features";

/** Up to so many are compared each with each. */
const exactUpTo = 4000;
/** As many groups as this share of the root of their number are looked at, at least four. */
const probedShare = 0.06;

/** Squared distance of two features, stopped once it is beyond `limit`. */
function squaredDistance(bytes: Uint8Array, a: number, b: number, limit: number): number {
  let sum = 0;
  for (let n = 0; n < featureLength; n += 16) {
    for (let m = n; m < n + 16; m++) {
      const difference = (bytes[a + m] as number) - (bytes[b + m] as number);
      sum += difference * difference;
    }
    if (sum > limit) return sum;
  }
  return sum;
}

/** The nearest found so far, nearest first. */
class Nearest {
  readonly items: Int32Array;
  readonly distances: Float64Array;
  constructor(private readonly k: number) {
    this.items = new Int32Array(k).fill(-1);
    this.distances = new Float64Array(k).fill(Infinity);
  }
  get limit(): number {
    return this.distances[this.k - 1] as number;
  }
  take(item: number, distance: number): void {
    if (distance >= this.limit) return;
    let at = this.k - 1;
    for (; at > 0 && (this.distances[at - 1] as number) > distance; at--) {
      this.distances[at] = this.distances[at - 1] as number;
      this.items[at] = this.items[at - 1] as number;
    }
    this.distances[at] = distance;
    this.items[at] = item;
  }
}

/** Every how-manyeth of a list, `count` in all. */
const spread = (length: number, count: number) =>
  Array.from({ length: count }, (_, n) => Math.floor((n * length) / count));

/**
 * For each of some features, that begin at `places` in `bytes`, the `k` nearest others by their number in `places`, nearest
 * first, -1 where there are fewer; k numbers for each, one after the other.
 */
export function nearestNeighbours(bytes: Uint8Array, places: ArrayLike<number>, k: number): Int32Array {
  const count = places.length;
  const result = new Int32Array(count * k).fill(-1);
  const groups = count <= exactUpTo ? 1 : Math.ceil(Math.sqrt(count));
  const pivots = spread(count, groups);
  const probes = groups === 1 ? 1 : Math.max(4, Math.ceil(groups * probedShare));
  const nearestPivots = Array.from({ length: groups === 1 ? 0 : count }, (_, item) => {
    const nearest = new Nearest(probes);
    for (const [group, pivot] of pivots.entries())
      nearest.take(group, squaredDistance(bytes, places[item] as number, places[pivot] as number, nearest.limit));
    return nearest.items;
  });
  const members: number[][] = Array.from({ length: groups }, () => []);
  for (let item = 0; item < count; item++) members[nearestPivots[item]?.[0] ?? 0]?.push(item);
  for (let item = 0; item < count; item++) {
    const nearest = new Nearest(k);
    for (const group of nearestPivots[item] ?? [0])
      for (const other of members[group] ?? [])
        if (other !== item)
          nearest.take(other, squaredDistance(bytes, places[item] as number, places[other] as number, nearest.limit));
    result.set(nearest.items, item * k);
  }
  return result;
}
