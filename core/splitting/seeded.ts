/** Randomness that comes from a seed and an image's own hash alone, never from order or time. */
import { sha256OfText } from "../model/sha256";

/** A number in [0, 1) for these words: the first 48 bits of their SHA-256. */
export function uniform(...words: readonly (string | number)[]): number {
  return parseInt(sha256OfText(words.join("|")).slice(0, 12), 16) / 2 ** 48;
}
