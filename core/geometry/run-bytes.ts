/**
 * A mask's runs as bytes: each count as an unsigned LEB128 number (seven bits a byte, low first, the eighth bit says that
 * more comes; DWARF 5, section 7.6). A fifth of the size of the same counts as JSON, and nothing to parse.
 */

/** Packs counts (whole numbers from 0 to 2^53 − 1). */
export function runsToBytes(counts: readonly number[]): Uint8Array {
  let length = 0;
  for (const count of counts) for (let rest = count; ; rest = Math.floor(rest / 128)) if ((length++, rest < 128)) break;
  const bytes = new Uint8Array(length);
  let at = 0;
  for (const count of counts) {
    let rest = count;
    for (; rest >= 128; rest = Math.floor(rest / 128)) bytes[at++] = (rest % 128) | 128;
    bytes[at++] = rest;
  }
  return bytes;
}

/** Unpacks counts; null where the bytes end within a number or a number is larger than 2^53 − 1. */
export function runsFromBytes(bytes: Uint8Array): number[] | null {
  const counts: number[] = [];
  let value = 0;
  let factor = 1;
  for (const byte of bytes) {
    value += (byte & 127) * factor;
    if (value > Number.MAX_SAFE_INTEGER) return null;
    if (byte & 128) factor *= 128;
    else {
      counts.push(value);
      value = 0;
      factor = 1;
    }
  }
  return factor === 1 ? counts : null;
}
