/**
 * The places of even draws from [0, 1) from the lowest to the highest; `between` orders places whose draws are the same. A
 * bucket sort: with as many buckets as draws each holds one on average, whatever their number.
 */
export function inOrderOfDraws(draws: Float64Array, between: (a: number, b: number) => number): Uint32Array {
  const { length } = draws;
  const bucketOf = (n: number) => Math.floor((draws[n] as number) * length);
  const ends = new Uint32Array(length + 1);
  for (let n = 0; n < length; n++) ends[bucketOf(n) + 1] = (ends[bucketOf(n) + 1] as number) + 1;
  for (let bucket = 0; bucket < length; bucket++)
    ends[bucket + 1] = (ends[bucket + 1] as number) + (ends[bucket] as number);
  const starts = ends.slice();
  const order = new Uint32Array(length);
  for (let n = 0; n < length; n++) {
    const bucket = bucketOf(n);
    let at = ends[bucket] as number;
    ends[bucket] = at + 1;
    // What is in the bucket already and comes later moves up.
    while (at > (starts[bucket] as number)) {
      const before = order[at - 1] as number;
      const difference = (draws[before] as number) - (draws[n] as number) || between(before, n);
      if (difference < 0) break;
      order[at--] = before;
    }
    order[at] = n;
  }
  return order;
}
