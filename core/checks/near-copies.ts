/** Near-copies by perceptual hash: pictures whose hashes differ in few bits. */

const nibbleBits = [0, 1, 1, 2, 1, 2, 2, 3, 1, 2, 2, 3, 2, 3, 3, 4];

/** How many bits two hashes of equal length, written in hexadecimal, differ in (Hamming distance). */
export function hashDistance(a: string, b: string): number {
  let bits = 0;
  for (let i = 0; i < a.length; i++) bits += nibbleBits[Number.parseInt(a[i] as string, 16) ^ Number.parseInt(b[i] as string, 16)] as number;
  return bits;
}

export type Hashed = { key: string; hash: string };

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
  const byBand = Array.from({ length: bands }, () => new Map<string, Hashed[]>());
  const put = (entry: Hashed) => {
    for (let band = 0; band < bands; band++) {
      const piece = entry.hash.slice(edges[band], edges[band + 1]);
      const there = byBand[band]?.get(piece);
      if (there) there.push(entry);
      else byBand[band]?.set(piece, [entry]);
    }
  };
  const near = (entry: Hashed): string | null => {
    const seen = new Set<Hashed>();
    for (let band = 0; band < bands; band++) {
      for (const other of byBand[band]?.get(entry.hash.slice(edges[band], edges[band + 1])) ?? []) {
        if (seen.has(other)) continue;
        seen.add(other);
        if (other.key !== entry.key && hashDistance(entry.hash, other.hash) <= within) return other.key;
      }
    }
    return null;
  };
  for (const entry of against) put(entry);
  for (const entry of among) {
    const other = near(entry);
    if (other !== null) found.set(entry.key, other);
    put(entry);
  }
  return found;
}
