/**
 * The nearest neighbours of features among many: exact where they are few; else first among the groups around the nearest
 * of some of them (inverted lists: Sivic & Zisserman, Video Google, ICCV 2003), then among the neighbours of neighbours,
 * until these are known (NN-descent: Dong, Moses & Li, WWW 2011).
 */
import { featureLength } from "./features";

/** Up to so many are compared each with each. */
const exactUpTo = 4000;
/** So many groups are looked at around each one. */
const fewestProbes = 4;
/** So many neighbours are kept while neighbours of neighbours are looked at, for these to lead on. */
const fewestKept = 16;
/** It is done once a round finds nearer ones for so small a share, or after so many rounds. */
const settled = 0.002;
const mostRounds = 8;

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
 * Takes whichever of the features from `first` to before `last` are near to the one that begins at `from`; a distance is
 * left off once it is beyond the farthest that is kept. Features lie one after the other, so that they are read in a row.
 */
function takeNear(features: Uint8Array, from: number, first: number, last: number, nearest: Nearest): void {
  let { limit } = nearest;
  for (let other = first; other < last; other++) {
    const at = other * featureLength;
    if (at === from) continue;
    let sum = 0;
    for (let n = 0; n < featureLength; n += 16) {
      for (let m = n; m < n + 16; m += 4) {
        const a = (features[from + m] as number) - (features[at + m] as number);
        const b = (features[from + m + 1] as number) - (features[at + m + 1] as number);
        const c = (features[from + m + 2] as number) - (features[at + m + 2] as number);
        const d = (features[from + m + 3] as number) - (features[at + m + 3] as number);
        sum += a * a + b * b + c * c + d * d;
      }
      if (sum >= limit) break;
    }
    if (sum >= limit) continue;
    nearest.take(other, sum);
    ({ limit } = nearest);
  }
}

/** The features that begin at `places`, one after the other. */
function gathered(bytes: Uint8Array, places: ArrayLike<number>): Uint8Array {
  const features = new Uint8Array(places.length * featureLength);
  for (let n = 0; n < places.length; n++) {
    const place = places[n] as number;
    features.set(bytes.subarray(place, place + featureLength), n * featureLength);
  }
  return features;
}

/** The groups nearest to each feature, `probes` of them, nearest first; a group is what lies around a pivot. */
function nearestGroups(features: Uint8Array, pivots: readonly number[], probes: number): Int32Array {
  const count = features.length / featureLength;
  // The pivots lie behind one another, and each feature in turn behind them.
  const beside = new Uint8Array((pivots.length + 1) * featureLength);
  beside.set(
    gathered(
      features,
      pivots.map((pivot) => pivot * featureLength),
    ),
  );
  const own = pivots.length * featureLength;
  const groups = new Int32Array(count * probes);
  for (let item = 0; item < count; item++) {
    beside.set(features.subarray(item * featureLength, (item + 1) * featureLength), own);
    const nearest = new Nearest(probes);
    takeNear(beside, own, 0, pivots.length, nearest);
    groups.set(nearest.items, item * probes);
  }
  return groups;
}

/**
 * For each of some features, that begin at `places` in `bytes`, the `k` nearest others by their number in `places`, nearest
 * first, -1 where there are fewer; k numbers for each, one after the other.
 */
export function nearestNeighbours(bytes: Uint8Array, places: ArrayLike<number>, k: number): Int32Array {
  const count = places.length;
  const features = gathered(bytes, places);
  const groups = count <= exactUpTo ? 1 : Math.ceil(Math.sqrt(count));
  const probes = Math.min(groups, fewestProbes);
  const probed = groups === 1 ? new Int32Array(count) : nearestGroups(features, spread(count, groups), probes);
  const { order, starts } = byGroup(probed, probes, groups);
  const ordered = gathered(
    features,
    order.map((item) => item * featureLength),
  );
  const near = Array.from(order, (item, at) => {
    const nearest = new Nearest(groups === 1 ? k : Math.max(k, fewestKept));
    for (let probe = 0; probe < probes; probe++) {
      const group = probed[item * probes + probe] as number;
      takeNear(ordered, at * featureLength, starts[group] as number, starts[group + 1] as number, nearest);
    }
    return nearest;
  });
  let links: Links | null = null;
  for (let round = 0; groups > 1 && round < mostRounds; round++) {
    links = linksOf(near, links);
    if (refine(ordered, near, links) <= count * k * settled) break;
  }
  const result = new Int32Array(count * k).fill(-1);
  near.forEach(({ items }, at) => {
    const item = order[at] as number;
    for (let n = 0; n < k; n++) {
      const other = items[n] as number;
      if (other >= 0) result[item * k + n] = order[other] as number;
    }
  });
  return result;
}

/** Neighbours of each one, one after the other, and which of them were found in the last round. */
type Links = { width: number; items: Int32Array; isFresh: Uint8Array };

/** The neighbours as they are; without `before` all are fresh. */
function linksOf(near: readonly Nearest[], before: Links | null): Links {
  const width = near[0]?.items.length ?? 0;
  const items = new Int32Array(near.length * width);
  near.forEach((nearest, item) => items.set(nearest.items, item * width));
  const isFresh = new Uint8Array(items.length).fill(before ? 0 : 1);
  if (before)
    for (let start = 0; start < items.length; start += width) {
      const known = before.items.subarray(start, start + width);
      for (let at = start; at < start + width; at++) if (!known.includes(items[at] as number)) isFresh[at] = 1;
    }
  return { width, items, isFresh };
}

/** Whose neighbours each one is, as many as it has itself. */
function reversed({ width, items, isFresh }: Links): Links {
  const links = { width, items: new Int32Array(items.length).fill(-1), isFresh: new Uint8Array(items.length) };
  const counts = new Int32Array(items.length / width);
  for (let at = 0; at < items.length; at++) {
    const other = items[at] as number;
    const count = counts[other];
    if (count === undefined || count >= width) continue;
    links.items[other * width + count] = Math.floor(at / width);
    links.isFresh[other * width + count] = isFresh[at] as number;
    counts[other] = count + 1;
  }
  return links;
}

/**
 * Looks at the neighbours of each one's neighbours, and of those whose neighbour it is, where either was found in the last
 * round; returns how many nearer ones were found.
 */
function refine(features: Uint8Array, near: readonly Nearest[], links: Links): number {
  const { width, items, isFresh } = links;
  const reverse = reversed(links);
  const seen = new Int32Array(near.length).fill(-1);
  let found = 0;
  near.forEach((nearest, item) => {
    seen[item] = item;
    for (let at = item * width; at < (item + 1) * width; at++) {
      const other = items[at] as number;
      if (other >= 0) seen[other] = item;
    }
    const look = (other: number) => {
      if (other < 0 || seen[other] === item) return;
      seen[other] = item;
      const farthest = nearest.limit;
      takeNear(features, item * featureLength, other, other + 1, nearest);
      if (nearest.limit < farthest) found++;
    };
    for (const around of [links, reverse])
      for (let at = item * width; at < (item + 1) * width; at++) {
        const other = around.items[at] as number;
        if (other < 0) continue;
        look(other);
        const all = around.isFresh[at] === 1;
        for (let next = other * width; next < (other + 1) * width; next++)
          if (all || isFresh[next] === 1) look(items[next] as number);
      }
  });
  return found;
}

/** Items in the order of the groups that they are nearest to, and where each group begins. */
function byGroup(probed: Int32Array, probes: number, groups: number): { order: Int32Array; starts: Int32Array } {
  const count = probed.length / probes;
  const starts = new Int32Array(groups + 1);
  const groupOf = (item: number) => probed[item * probes] as number;
  for (let item = 0; item < count; item++) starts[groupOf(item) + 1] = (starts[groupOf(item) + 1] as number) + 1;
  for (let group = 0; group < groups; group++)
    starts[group + 1] = (starts[group + 1] as number) + (starts[group] as number);
  const next = starts.slice();
  const order = new Int32Array(count);
  for (let item = 0; item < count; item++) {
    const group = groupOf(item);
    order[next[group] as number] = item;
    next[group] = (next[group] as number) + 1;
  }
  return { order, starts };
}
