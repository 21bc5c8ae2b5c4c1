const bits = new DataView(new ArrayBuffer(8));

/** The least double above a number (as `nextUp` of IEEE 754-2008, 5.3.1); NaN where there is none. */
export function nextAbove(number: number): number {
  if (Number.isNaN(number) || number === Number.POSITIVE_INFINITY) return Number.NaN;
  if (number === 0) return Number.MIN_VALUE;
  bits.setFloat64(0, number);
  bits.setBigInt64(0, bits.getBigInt64(0) + (number > 0 ? 1n : -1n));
  return bits.getFloat64(0);
}
