/** Randomness that comes from a seed and an image's own hash alone, never from order, time or machine. */
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { sha256OfText } from "./sha256";

const digits = 12;

/** A number in [0, 1) for these words: the first 48 bits of their SHA-256. */
export function uniform(...words: readonly (string | number)[]): number {
  return parseInt(sha256OfText(words.join("|")).slice(0, digits), 16) / 2 ** 48;
}

/** Numbers in [0, 1) one after the other, 48 bits each of the SHA-256 of the words and a running block. */
export class Draws {
  private readonly words: string;
  private text = "";
  private block = 0;

  constructor(...words: readonly (string | number)[]) {
    this.words = words.join("|");
  }

  next(): number {
    if (this.text.length < digits) this.text = sha256OfText(`${this.words}|${this.block++}`);
    const number = parseInt(this.text.slice(0, digits), 16) / 2 ** 48;
    this.text = this.text.slice(digits);
    return number;
  }

  /** An even draw from [low, high). */
  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }

  /** An even draw among the whole numbers low … high. */
  whole(low: number, high: number): number {
    return Math.min(high, low + Math.floor((high - low + 1) * this.next()));
  }

  /** A seed for a stream of its own, 0 … 2³¹ − 1. */
  seed(): number {
    return Math.floor(this.next() * 2 ** 31);
  }
}

/** A fast stream of numbers in [0, 1), 32 bits each, for pixels: the same seed gives the same stream everywhere. */
export function streamOf(seed: number): () => number {
  const generator = xoroshiro128plus(seed);
  return () => (generator.next() >>> 0) / 2 ** 32;
}

/** A stream of normal numbers, mean 0 and deviation 1. Box & Muller, Annals of Mathematical Statistics 29 (1958). */
export function normalStreamOf(seed: number): () => number {
  const next = streamOf(seed);
  let spare: number | null = null;
  return () => {
    if (spare !== null) {
      const value = spare;
      spare = null;
      return value;
    }
    const radius = Math.sqrt(-2 * Math.log(1 - next()));
    const angle = 2 * Math.PI * next();
    spare = radius * Math.sin(angle);
    return radius * Math.cos(angle);
  };
}
