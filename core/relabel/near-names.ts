/**
 * Finds names a few letters away without comparing each with each: a name within two letters of another holds one of
 * that one's three parts unchanged, at most two places from where it was.
 */
import { distance } from "fastest-levenshtein";

/** At most so many letters apart. */
export const mostLetters = 2;
const parts = mostLetters + 1;
/**
 * Names that share a long part, thousands of them, would all be compared after all; after so many comparisons the rest
 * are near to nothing.
 */
const mostComparisons = 3_000_000;

type Entry = { index: number; bare: string };

/** Where a name of this length is cut into parts: the start of each and the end of the last. */
const cuts = (length: number) => Array.from({ length: parts + 1 }, (_, n) => Math.floor((length * n) / parts));

export class NearNames {
  private readonly byPart = new Map<string, Entry[]>();
  private longest = 0;
  private comparisons = 0;

  /** `names` are compared as they are given here; an empty one is near to nothing. */
  constructor(names: readonly string[]) {
    names.forEach((bare, index) => {
      if (bare === "") return;
      this.longest = Math.max(this.longest, bare.length);
      const at = cuts(bare.length);
      for (let part = 0; part < parts; part++) {
        const key = `${bare.length} ${part} ${bare.slice(at[part], at[part + 1])}`;
        const known = this.byPart.get(key);
        if (known) known.push({ index, bare });
        else this.byPart.set(key, [{ index, bare }]);
      }
    });
  }

  /**
   * Indexes of the names that are at most `mostLetters` away (Levenshtein distance), each with its distance, in
   * ascending order.
   */
  near(bare: string): { index: number; letters: number }[] {
    const found = new Map<number, number>();
    const looked = new Set<number>();
    const longest = Math.min(this.longest, bare.length + mostLetters);
    for (let length = Math.max(1, bare.length - mostLetters); length <= longest; length++) {
      const at = cuts(length);
      for (let part = 0; part < parts; part++) {
        const [start, end] = [at[part] as number, at[part + 1] as number];
        for (let shift = -mostLetters; shift <= mostLetters; shift++) {
          if (start + shift < 0 || end + shift > bare.length) continue;
          for (const entry of this.byPart.get(`${length} ${part} ${bare.slice(start + shift, end + shift)}`) ?? []) {
            if (looked.has(entry.index) || this.comparisons >= mostComparisons) continue;
            this.comparisons++;
            looked.add(entry.index);
            const letters = distance(bare, entry.bare);
            if (letters <= mostLetters) found.set(entry.index, letters);
          }
        }
      }
    }
    return [...found].sort(([a], [b]) => a - b).map(([index, letters]) => ({ index, letters }));
  }
}
