import { byGroup } from "../columns/by-group";

/**
 * The places of even draws from [0, 1) from the lowest to the highest; `between` orders places whose draws are the same. A
 * bucket sort: with as many buckets as draws each holds one on average, whatever their number.
 */
export function inOrderOfDraws(draws: Float64Array, between: (a: number, b: number) => number): Uint32Array {
  const { length } = draws;
  const { order, starts } = byGroup(length, length, (n) => Math.floor((draws[n] as number) * length));
  const compare = (a: number, b: number) => (draws[a] as number) - (draws[b] as number) || between(a, b);
  for (let bucket = 0; bucket < length; bucket++) {
    const [start, end] = [starts[bucket] as number, starts[bucket + 1] as number];
    if (end - start > 1) order.subarray(start, end).sort(compare);
  }
  return order;
}
