/** Where the features of each class lie: their means, and how far from them something is. */
import { firstByte, instantiate, type Memory } from "../wasm/instantiate";
import { featuresBytes } from "../wasm/features-bytes";
import { farthest, featureLength } from "./features";

/** The mean of features that begin at `places` in `bytes`; null where there are none. */
export function centreOf(bytes: Uint8Array, places: Iterable<number>): Float32Array | null {
  const sums = new Float64Array(featureLength);
  let count = 0;
  for (const place of places) {
    count++;
    for (let n = 0; n < featureLength; n++) sums[n] = (sums[n] as number) + (bytes[place + n] as number);
  }
  return count === 0 ? null : Float32Array.from(sums, (sum) => sum / count);
}

type Comparing = Memory & { fartherThanOwn: (...numbers: number[]) => void };

/** So many features are compared with the centres at once. */
const atOnce = 4096;

/**
 * For each of some features, that begin at `places` in `bytes`: how much farther the nearest other class's centre is from it
 * than that of its own class (0 … 1); below zero where another is nearer. NaN where a place is -1, or there is no centre of
 * its class or no other. `classOf` gives the class of a feature by its number in `places`.
 */
export function fartherThanOwn(
  bytes: Uint8Array,
  places: Int32Array,
  classOf: (nth: number) => number,
  centres: ReadonlyMap<number, Float32Array>,
): Float32Array {
  const result = new Float32Array(places.length).fill(Number.NaN);
  if (centres.size < 2) return result;
  const { memory, reserve, fartherThanOwn: compare } = instantiate<Comparing>(featuresBytes);
  const sizes = [atOnce * featureLength, atOnce * 4, centres.size * featureLength * 4, atOnce * 4, featureLength * 4];
  const starts = sizes.map((_, n) => firstByte + sizes.slice(0, n).reduce((sum, size) => sum + size, 0));
  const [featuresAt = 0, ownAt = 0, centresAt = 0, resultAt = 0, wideAt = 0] = starts;
  reserve(wideAt + featureLength * 4);
  const numberOf = new Map([...centres.keys()].map((key, n) => [key, n]));
  [...centres.values()].forEach((centre, n) =>
    new Float32Array(memory.buffer, centresAt + n * featureLength * 4, featureLength).set(centre),
  );
  const features = new Uint8Array(memory.buffer, featuresAt, atOnce * featureLength);
  const own = new Int32Array(memory.buffer, ownAt, atOnce);
  const compared = new Float32Array(memory.buffer, resultAt, atOnce);
  const batch = new Int32Array(atOnce);
  let waiting = 0;
  const flush = () => {
    compare(featuresAt, waiting, ownAt, centresAt, centres.size, resultAt, wideAt);
    for (let n = 0; n < waiting; n++) result[batch[n] as number] = (compared[n] as number) / farthest;
    waiting = 0;
  };
  for (let nth = 0; nth < places.length; nth++) {
    const place = places[nth] as number;
    const number = place < 0 ? undefined : numberOf.get(classOf(nth));
    if (number === undefined) continue;
    features.set(bytes.subarray(place, place + featureLength), waiting * featureLength);
    own[waiting] = number;
    batch[waiting] = nth;
    if (++waiting === atOnce) flush();
  }
  flush();
  return result;
}
