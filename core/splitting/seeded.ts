/** Randomness that comes from a seed and an image's own hash alone, never from order or time. */
import { sha256 } from "@noble/hashes/sha2.js";

const encoder = new TextEncoder();

/** A number in [0, 1) for these words: the first 48 bits of their SHA-256. */
export function uniform(...words: readonly (string | number)[]): number {
  const bytes = sha256(encoder.encode(words.join("|")));
  let value = 0;
  for (let i = 0; i < 6; i++) value = value * 256 + (bytes[i] as number);
  return value / 2 ** 48;
}
