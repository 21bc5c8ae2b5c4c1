/**
 * The nearest neighbours of features among many: exact where they are few; else first among the groups around the nearest
 * of some of them (inverted lists: Sivic & Zisserman, Video Google, ICCV 2003), then among the neighbours of neighbours,
 * until these are known (NN-descent: Dong, Moses & Li, WWW 2011). Comparing is done in core/wasm/assembly/features.ts, in
 * whose memory the features and the nearest found so far lie.
 */
import { byGroup } from "../columns/by-group";
import { firstByte, instantiate, type Memory } from "../wasm/instantiate";
import { featuresBytes } from "../wasm/features-bytes";
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

/** See there what each takes. */
type Comparing = Memory & {
  takeNear: (
    from: number,
    features: number,
    first: number,
    last: number,
    items: number,
    distances: number,
    kept: number,
  ) => void;
  refine: (...numbers: number[]) => number;
};

const farthest = 2 ** 31 - 1;

/** Every how-manyeth of a list, `count` in all. */
const spread = (length: number, count: number) =>
  Array.from({ length: count }, (_, n) => Math.floor((n * length) / count));

/** The features that begin at `places`, one after the other, put into `target`. */
function gather(bytes: Uint8Array, places: ArrayLike<number>, target: Uint8Array): void {
  for (let n = 0; n < places.length; n++) {
    const place = places[n] as number;
    target.set(bytes.subarray(place, place + featureLength), n * featureLength);
  }
}

/** Features of which the nearest of each are looked for, `kept` for each of `count`. */
class Search {
  private readonly comparing = instantiate<Comparing>(featuresBytes);
  private end = firstByte;
  private readonly at: Record<"features" | "items" | "distances", number>;
  readonly features: Uint8Array;
  /** The nearest so far, nearest first, -1 where there are fewer. */
  readonly items: Int32Array;

  constructor(
    readonly count: number,
    readonly kept: number,
  ) {
    const numbers = count * kept;
    // All at once: memory that grows moves away from under what looks at it.
    this.comparing.reserve(firstByte + count * featureLength + numbers * (4 * 4 + 2) + count * 4 + 7 * 16);
    this.at = {
      features: this.place(count * featureLength),
      items: this.place(numbers * 4),
      distances: this.place(numbers * 4),
    };
    this.features = new Uint8Array(this.comparing.memory.buffer, this.at.features, count * featureLength);
    this.items = this.numbers(this.at.items, numbers).fill(-1);
    this.numbers(this.at.distances, numbers).fill(farthest);
  }

  private place(bytes: number): number {
    const start = this.end;
    this.end = Math.ceil((start + bytes) / 16) * 16;
    return start;
  }

  private numbers(place: number, length: number): Int32Array {
    return new Int32Array(this.comparing.memory.buffer, place, length);
  }

  /** Takes whichever of the features from `first` to before `last` are near to that of `item`. */
  takeNear(item: number, first: number, last: number): void {
    const { features, items, distances } = this.at;
    const start = 4 * item * this.kept;
    const from = features + item * featureLength;
    this.comparing.takeNear(from, features, first, last, items + start, distances + start, this.kept);
  }

  /** Rounds of looking at neighbours of neighbours, until one finds no more than `few` nearer ones. */
  descend(few: number): void {
    const { comparing, count, kept, items } = this;
    const { features, items: itemsAt, distances } = this.at;
    const numbers = count * kept;
    const places = [numbers * 4, numbers, numbers * 4, numbers, count * 4].map((bytes) => this.place(bytes));
    const [linksAt = 0, freshAt = 0, reverseAt = 0, reverseFreshAt = 0, seenAt = 0] = places;
    const { buffer } = comparing.memory;
    const links = { kept, items: this.numbers(linksAt, numbers), isFresh: new Uint8Array(buffer, freshAt, numbers) };
    const reverse = {
      ...{ kept, items: this.numbers(reverseAt, numbers) },
      isFresh: new Uint8Array(buffer, reverseFreshAt, numbers),
    };
    links.items.fill(-1);
    for (let round = 0; round < mostRounds; round++) {
      link(links, items);
      turnRound(links, reverse);
      this.numbers(seenAt, count).fill(-1);
      const lists = [itemsAt, distances, linksAt, freshAt, reverseAt, reverseFreshAt, seenAt];
      if (comparing.refine(features, count, kept, ...lists) <= few) return;
    }
  }
}

/** Neighbours of each one, one after the other, and which of them were found in the last round. */
type Links = { kept: number; items: Int32Array; isFresh: Uint8Array };

/** Makes links of the neighbours as they are; those that are none yet are fresh. */
function link({ kept, items, isFresh }: Links, now: Int32Array): void {
  for (let start = 0; start < items.length; start += kept) {
    const known = items.subarray(start, start + kept);
    for (let at = start; at < start + kept; at++) isFresh[at] = known.includes(now[at] as number) ? 0 : 1;
  }
  items.set(now);
}

/** Whose neighbours each one is, as many as it has itself. */
function turnRound({ kept, items, isFresh }: Links, reverse: Links): void {
  reverse.items.fill(-1);
  const counts = new Int32Array(items.length / kept);
  for (let at = 0; at < items.length; at++) {
    const other = items[at] as number;
    const count = counts[other];
    if (count === undefined || count >= kept) continue;
    reverse.items[other * kept + count] = Math.floor(at / kept);
    reverse.isFresh[other * kept + count] = isFresh[at] as number;
    counts[other] = count + 1;
  }
}

/**
 * The groups nearest to each of some features, `probes` of them, nearest first; a group is what lies around a pivot, one of
 * the features.
 */
function nearestGroups(features: Uint8Array, pivots: readonly number[], probes: number): Int32Array {
  const count = features.length / featureLength;
  // The pivots lie behind one another, and all features behind them.
  const search = new Search(pivots.length + count, probes);
  gather(
    features,
    pivots.map((pivot) => pivot * featureLength),
    search.features,
  );
  search.features.set(features, pivots.length * featureLength);
  for (let item = pivots.length; item < search.count; item++) search.takeNear(item, 0, pivots.length);
  return search.items.slice(pivots.length * probes);
}

/**
 * For each of some features, that begin at `places` in `bytes`, the `k` nearest others by their number in `places`, nearest
 * first, -1 where there are fewer; k numbers for each, one after the other.
 */
export function nearestNeighbours(bytes: Uint8Array, places: ArrayLike<number>, k: number): Int32Array {
  const count = places.length;
  const groups = count <= exactUpTo ? 1 : Math.ceil(Math.sqrt(count));
  const probes = Math.min(groups, fewestProbes);
  const search = new Search(count, groups === 1 ? k : Math.max(k, fewestKept));
  gather(bytes, places, search.features);
  const probed = groups === 1 ? new Int32Array(count) : nearestGroups(search.features, spread(count, groups), probes);
  const { order, starts } = byGroup(probed.length / probes, groups, (item) => probed[item * probes] as number);
  // In the order of their groups, so that a group is read in a row.
  gather(
    bytes,
    order.map((item) => places[item] as number),
    search.features,
  );
  order.forEach((item, at) => {
    for (let probe = 0; probe < probes; probe++) {
      const group = probed[item * probes + probe] as number;
      search.takeNear(at, starts[group] as number, starts[group + 1] as number);
    }
  });
  if (groups > 1) search.descend(count * k * settled);
  const result = new Int32Array(count * k).fill(-1);
  order.forEach((item, at) => {
    for (let n = 0; n < k; n++) {
      const other = search.items[at * search.kept + n] as number;
      if (other >= 0) result[item * k + n] = order[other] as number;
    }
  });
  return result;
}
