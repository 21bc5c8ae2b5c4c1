const digits = 4;
const digitValues = 1 << 16;

/** Keys as whole numbers of 64 bits in four digits, the lowest first: in the order of the numbers, NaN last. */
function digitsOf(keys: ArrayLike<number>, down: boolean): Uint16Array {
  const values = new Uint16Array(keys.length * digits);
  const double = new DataView(new ArrayBuffer(8));
  for (let item = 0; item < keys.length; item++) {
    // Zero is one key, whatever its sign.
    const key = (keys[item] as number) + 0;
    double.setFloat64(0, key);
    let [high, low] = [double.getUint32(0), double.getUint32(4)];
    // IEEE 754 numbers stand in the order of their bits but for the sign; negative ones in that of the bits turned over.
    if (high >>> 31 === 1) [high, low] = [~high, ~low];
    else high ^= 0x80000000;
    if (down) [high, low] = [~high, ~low];
    if (Number.isNaN(key)) [high, low] = [-1, -1];
    values[item * digits] = low & 0xffff;
    values[item * digits + 1] = low >>> 16;
    values[item * digits + 2] = high & 0xffff;
    values[item * digits + 3] = high >>> 16;
  }
  return values;
}

/**
 * Items 0, 1 … by their keys, ascending or descending; items with the same key stay in their own order, those without one
 * (NaN) stand at the end either way. A radix sort, lowest digit first (Knuth, The Art of Computer Programming 3, 5.2.5).
 */
export function stableOrder(keys: ArrayLike<number>, down = false): Uint32Array {
  const { length } = keys;
  const values = digitsOf(keys, down);
  let order = new Uint32Array(length);
  for (let item = 0; item < length; item++) order[item] = item;
  let other = new Uint32Array(length);
  for (let digit = 0; digit < digits; digit++) {
    const next = new Uint32Array(digitValues + 1);
    for (let item = 0; item < length; item++) {
      const at = (values[item * digits + digit] as number) + 1;
      next[at] = (next[at] as number) + 1;
    }
    if (next.includes(length)) continue;
    for (let value = 1; value <= digitValues; value++)
      next[value] = (next[value] as number) + (next[value - 1] as number);
    for (let at = 0; at < length; at++) {
      const item = order[at] as number;
      const value = values[item * digits + digit] as number;
      const place = next[value] as number;
      other[place] = item;
      next[value] = place + 1;
    }
    [order, other] = [other, order];
  }
  return order;
}
