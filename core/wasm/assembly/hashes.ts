// AssemblyScript. Hashes compared by the bits in which they differ, 64 at a time.

/**
 * The last of the hashes from `first` to before `end` that differs from that at `from` in at most `within` bits; -1 where
 * none does. Hashes lie one after the other at `hashes`, `bytesEach` bytes each, a multiple of four.
 */
export function lastNear(hashes: usize, bytesEach: i32, from: i32, first: i32, end: i32, within: i32): i32 {
  const one = hashes + <usize>from * <usize>bytesEach;
  const whole = bytesEach & ~7;
  for (let other = end - 1; other >= first; other--) {
    const two = hashes + <usize>other * <usize>bytesEach;
    let bits: i32 = 0;
    for (let at = 0; at < whole; at += 8)
      bits += <i32>popcnt<u64>(load<u64>(one + <usize>at) ^ load<u64>(two + <usize>at));
    if (whole < bytesEach) bits += <i32>popcnt<u32>(load<u32>(one + <usize>whole) ^ load<u32>(two + <usize>whole));
    if (bits <= within) return other;
  }
  return -1;
}

export { reserve } from "./reserve";
