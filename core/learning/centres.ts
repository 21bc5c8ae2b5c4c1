/** Where the features of each class lie: their means, and how far from them something is. */
import { featureDistance, featureLength } from "./features";

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

/** The other class whose centre is nearest to features, and how far it is; null where there is no other. */
export function nearestOther(
  bytes: Uint8Array,
  place: number,
  own: number,
  centres: ReadonlyMap<number, Float32Array>,
): { key: number; distance: number } | null {
  let nearest: { key: number; distance: number } | null = null;
  for (const [key, centre] of centres) {
    if (key === own) continue;
    const distance = featureDistance(bytes, place, centre, 0);
    if (!nearest || distance < nearest.distance) nearest = { key, distance };
  }
  return nearest;
}
