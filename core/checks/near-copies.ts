/** Near-copies by perceptual hash: pictures whose hashes differ in few bits. */

const digitsAWord = 8;

/** A hash in hexadecimal as words of 32 bits. */
function wordsOf(hash: string): Uint32Array {
  return Uint32Array.from({ length: Math.ceil(hash.length / digitsAWord) }, (_, n) => Number.parseInt(hash.slice(n * digitsAWord, (n + 1) * digitsAWord), 16));
}

/** How many bits of a 32-bit word are set (the pairwise sum of H. S. Warren, "Hacker's Delight", 5-1). */
function setBits(word: number): number {
  let bits = word - ((word >>> 1) & 0x55555555);
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  return Math.imul((bits + (bits >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** The distance of two hashes, or anything above `most` where it is larger. */
function distanceUpTo(a: Uint32Array, b: Uint32Array, most: number): number {
  let bits = 0;
  for (let n = 0; n < a.length && bits <= most; n++) bits += setBits((a[n] as number) ^ (b[n] as number));
  return bits;
}

/** How many bits two hashes of equal length, written in hexadecimal, differ in (Hamming distance). */
export function hashDistance(a: string, b: string): number {
  return distanceUpTo(wordsOf(a), wordsOf(b), Infinity);
}

export type Hashed = { key: string; hash: string };
type Entry = { key: string; hash: string; words: Uint32Array; nth: number };

/**
 * For every entry of `among` that has a near-copy earlier in `among` or anywhere in `against`, the first such key.
 * Hashes at most `within` bits apart agree in at least one of `within` + 1 bands (pigeonhole), so only entries that
 * share a band are compared.
 */
export function nearCopies(among: readonly Hashed[], against: readonly Hashed[], within: number): Map<string, string> {
  const found = new Map<string, string>();
  const length = among[0]?.hash.length ?? against[0]?.hash.length ?? 0;
  if (length === 0) return found;
  const bands = Math.min(within + 1, length);
  const edges = Array.from({ length: bands + 1 }, (_, band) => Math.floor((band * length) / bands));
  const byBand = Array.from({ length: bands }, () => new Map<string, Entry[]>());
  const all = [...against, ...among].map((entry, nth): Entry => ({ ...entry, words: wordsOf(entry.hash), nth }));
  // Which entry was the last to be compared with each, so that none is compared twice for sharing two bands.
  const comparedWith = new Int32Array(all.length).fill(-1);
  const near = (entry: Entry): string | null => {
    for (let band = 0; band < bands; band++) {
      for (const other of byBand[band]?.get(entry.hash.slice(edges[band], edges[band + 1])) ?? []) {
        if (comparedWith[other.nth] === entry.nth) continue;
        comparedWith[other.nth] = entry.nth;
        if (other.key !== entry.key && distanceUpTo(entry.words, other.words, within) <= within) return other.key;
      }
    }
    return null;
  };
  for (const entry of all) {
    if (entry.nth >= against.length) {
      const other = near(entry);
      if (other !== null) found.set(entry.key, other);
    }
    for (let band = 0; band < bands; band++) {
      const piece = entry.hash.slice(edges[band], edges[band + 1]);
      const there = byBand[band]?.get(piece);
      if (there) there.push(entry);
      else byBand[band]?.set(piece, [entry]);
    }
  }
  return found;
}
