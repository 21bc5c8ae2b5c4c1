/** Where the features of each class lie: their means, and how far from them something is. */
import { firstByte, instantiate, type Memory } from "../wasm/instantiate";
import { featuresBytes } from "../wasm/features-bytes";
import { farthest, featureLength } from "./features";

/** Features by where they begin in `bytes`, -1 for none, each of a class: `classOf` its number in `places`. */
export type ClassedFeatures = { bytes: Uint8Array; places: ArrayLike<number>; classOf: (nth: number) => number };

type Comparing = Memory & {
  addUp: (features: number, count: number, own: number, sums: number) => void;
  fartherThanOwn: (...numbers: number[]) => void;
};

/** So many features are looked at at once. */
const atOnce = 4096;

/** Room in the memory of what compares for a batch of features, the numbers of their classes, and more. */
class Batches {
  readonly comparing = instantiate<Comparing>(featuresBytes);
  readonly features = firstByte;
  readonly own = firstByte + atOnce * featureLength;
  private readonly starts: readonly number[];

  /** `sizes`: the bytes of what else is put there. */
  constructor(sizes: readonly number[]) {
    const end = this.own + atOnce * 4;
    const ends = sizes.map((_, n) => end + sizes.slice(0, n + 1).reduce((sum, size) => sum + size, 0));
    this.starts = [end, ...ends];
    this.comparing.reserve(ends.at(-1) ?? end);
  }

  /** Where the nth of them begins. */
  start(nth: number): number {
    return this.starts[nth] as number;
  }

  floats(nth: number): Float32Array {
    const from = this.start(nth);
    return new Float32Array(this.comparing.memory.buffer, from, (this.start(nth + 1) - from) / 4);
  }

  /** Calls `look` for batches of features whose class has a number; `batch` says which of `places` they are. */
  forEach(
    { bytes, places, classOf }: ClassedFeatures,
    numbers: ReadonlyMap<number, number>,
    look: (batch: Int32Array, count: number) => void,
  ): void {
    const { buffer } = this.comparing.memory;
    const features = new Uint8Array(buffer, this.features, atOnce * featureLength);
    const own = new Int32Array(buffer, this.own, atOnce);
    const batch = new Int32Array(atOnce);
    let count = 0;
    for (let nth = 0; nth < places.length; nth++) {
      const place = places[nth] as number;
      const number = place < 0 ? undefined : numbers.get(classOf(nth));
      if (number === undefined) continue;
      features.set(bytes.subarray(place, place + featureLength), count * featureLength);
      own[count] = number;
      batch[count] = nth;
      if (++count < atOnce) continue;
      look(batch, count);
      count = 0;
    }
    look(batch, count);
  }
}

const numbered = (keys: Iterable<number>) => new Map([...keys].map((key, n) => [key, n]));

/** The mean of the features of each class that has any. */
export function centresOf(features: ClassedFeatures): Map<number, Float32Array> {
  const { places, classOf } = features;
  const counts = new Map<number, number>();
  for (let nth = 0; nth < places.length; nth++) {
    if ((places[nth] as number) < 0) continue;
    const key = classOf(nth);
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  const numbers = numbered(counts.keys());
  const batches = new Batches([counts.size * featureLength * 4]);
  const { comparing, features: from, own } = batches;
  batches.forEach(features, numbers, (_, count) => comparing.addUp(from, count, own, batches.start(0)));
  const sums = new Uint32Array(comparing.memory.buffer, batches.start(0), counts.size * featureLength);
  return new Map(
    Array.from(counts, ([key, count], n) => [
      key,
      Float32Array.from(sums.subarray(n * featureLength, (n + 1) * featureLength), (sum) => sum / count),
    ]),
  );
}

/**
 * For each of some features: how much farther the nearest other class's centre is from it than that of its own class
 * (0 … 1); below zero where another is nearer. NaN where there is none, or no centre of its class or no other.
 */
export function fartherThanOwn(features: ClassedFeatures, centres: ReadonlyMap<number, Float32Array>): Float32Array {
  const result = new Float32Array(features.places.length).fill(Number.NaN);
  if (centres.size < 2) return result;
  const batches = new Batches([centres.size * featureLength * 4, atOnce * 4, featureLength * 4]);
  [...centres.values()].forEach((centre, n) => batches.floats(0).set(centre, n * featureLength));
  const compared = batches.floats(1);
  const { comparing, features: from, own } = batches;
  const [centresAt, comparedAt, wideAt] = [0, 1, 2].map((nth) => batches.start(nth)) as [number, number, number];
  batches.forEach(features, numbered(centres.keys()), (batch, count) => {
    comparing.fartherThanOwn(from, count, own, centresAt, centres.size, comparedAt, wideAt);
    for (let n = 0; n < count; n++) result[batch[n] as number] = (compared[n] as number) / farthest;
  });
  return result;
}
