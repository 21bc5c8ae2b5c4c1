/**
 * Near-copies by perceptual hash: pictures whose hashes differ in few bits. Hashes lie one after the other in bytes, a
 * multiple of four bytes each.
 */

/**
 * Bits of 256 by which two pictures may differ and still be nearly the same. On the demo's trays, two shots of one tray
 * differ in 2 to 26, any other two pictures in 78 or more, but for empty racks, which are nearly the same indeed.
 */
export const nearCopyBits = 28;
/** Bytes of a perceptual hash. */
export const bytesEach = 32;

/** How many bits of a 32-bit word are set (the pairwise sum of H. S. Warren, "Hacker's Delight", 5-1). */
function setBits(word: number): number {
  let bits = word - ((word >>> 1) & 0x55555555);
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  return Math.imul((bits + (bits >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** Hashes as words of 32 bits, `wordsEach` to a hash. */
class Hashes {
  readonly length: number;
  constructor(
    private readonly words: Uint32Array,
    readonly wordsEach: number,
  ) {
    this.length = words.length / wordsEach;
  }

  static of(lists: readonly Uint8Array[], bytesEach: number): Hashes {
    const wordsEach = bytesEach / 4;
    const words = new Uint32Array(lists.reduce((sum, list) => sum + list.length, 0) / 4);
    let at = 0;
    for (const list of lists) {
      const view = new DataView(list.buffer, list.byteOffset, list.byteLength);
      for (let byte = 0; byte < list.length; byte += 4) words[at++] = view.getUint32(byte);
    }
    return new Hashes(words, wordsEach);
  }

  /** The distance of two of them in bits, or anything above `most` where it is larger. */
  distanceUpTo(a: number, b: number, most: number): number {
    let bits = 0;
    for (let n = 0; n < this.wordsEach && bits <= most; n++)
      bits += setBits((this.words[a * this.wordsEach + n] as number) ^ (this.words[b * this.wordsEach + n] as number));
    return bits;
  }

  /** Bits `from` to `to` (exclusive, at most 32 of them) of one of them as a number. */
  bits(nth: number, from: number, to: number): number {
    let value = 0;
    for (let bit = from; bit < to;) {
      const end = Math.min(to, (bit | 31) + 1);
      const word = this.words[nth * this.wordsEach + (bit >>> 5)] as number;
      const count = end - bit;
      value = value * 2 ** count + ((word << (bit & 31)) >>> (32 - count));
      bit = end;
    }
    return value;
  }
}

/** How many bits two hashes of equal length differ in (Hamming distance). */
export function hashDistance(a: Uint8Array, b: Uint8Array): number {
  return Hashes.of([a, b], a.length).distanceUpTo(0, 1, Infinity);
}

/** Bands of more bits than this would need a larger table than the comparing they spare is worth. */
const widestBand = 16;

/** A position in `among` and what it is nearly the same as: a position in `against`, or an earlier one in `among`. */
export type NearCopy = { position: number; of: number; from: "against" | "among" };

/**
 * Calls `look` with every two hashes that share a band, the later one from `first` on; `look` says whether the later one
 * goes on looking in this band. Hashes at most `within` bits apart agree in at least one of `within` + 1 bands (pigeonhole),
 * so only those that share a band are compared; a pair that shares several is met several times. Memory: the hashes and a
 * few numbers for each.
 */
function eachCandidate(
  hashes: Hashes,
  { first, bits, within }: { first: number; bits: number; within: number },
  look: (later: number, earlier: number) => boolean,
): void {
  const bands = Math.min(bits, Math.max(within + 1, Math.ceil(bits / widestBand)));
  const before = new Int32Array(hashes.length);
  const latest = new Int32Array(2 ** Math.ceil(bits / bands));
  for (let band = 0; band < bands; band++) {
    const [from, to] = [Math.floor((band * bits) / bands), Math.floor(((band + 1) * bits) / bands)];
    latest.fill(-1);
    for (let nth = 0; nth < hashes.length; nth++) {
      // Chains of all that agree in this band, each leading to the one before it.
      const value = hashes.bits(nth, from, to);
      before[nth] = latest[value] as number;
      latest[value] = nth;
      if (nth < first) continue;
      for (let other = before[nth] as number; other >= 0 && look(nth, other); other = before[other] as number);
    }
  }
}

const placeOf = (nth: number, other: number, first: number): NearCopy => ({
  position: nth - first,
  ...(other < first ? { of: other, from: "against" } : { of: other - first, from: "among" }),
});

/**
 * The positions in `among`, ascending, that have a near-copy earlier in `among` or anywhere in `against`: one at most
 * `within` bits apart; with the one that was found.
 */
export function nearCopies(among: Uint8Array, against: Uint8Array, bytesEach: number, within: number): NearCopy[] {
  const hashes = Hashes.of([against, among], bytesEach);
  const first = against.length / bytesEach;
  const nearTo = new Int32Array(hashes.length).fill(-1);
  eachCandidate(hashes, { first, bits: bytesEach * 8, within }, (later, earlier) => {
    if (nearTo[later] !== -1) return false;
    if (hashes.distanceUpTo(later, earlier, within) > within) return true;
    nearTo[later] = earlier;
    return false;
  });
  return Array.from(nearTo.subarray(first), (other, at) => ({ other, at })).flatMap(({ other, at }) =>
    other < 0 ? [] : [placeOf(first + at, other, first)],
  );
}

/**
 * Every near-copy of each position in `among`, earlier in `among` or anywhere in `against`; of each position the first
 * `mostEach` that are met.
 */
export function nearPairs(
  among: Uint8Array,
  against: Uint8Array,
  { bytesEach, within, mostEach }: { bytesEach: number; within: number; mostEach: number },
): NearCopy[] {
  const hashes = Hashes.of([against, among], bytesEach);
  const first = against.length / bytesEach;
  const near = new Map<number, Set<number>>();
  eachCandidate(hashes, { first, bits: bytesEach * 8, within }, (later, earlier) => {
    const known = near.get(later);
    if (known !== undefined && known.size >= mostEach) return false;
    if (known?.has(earlier) || hashes.distanceUpTo(later, earlier, within) > within) return true;
    if (known) known.add(earlier);
    else near.set(later, new Set([earlier]));
    return true;
  });
  return [...near]
    .sort(([a], [b]) => a - b)
    .flatMap(([later, others]) => [...others].map((other) => placeOf(later, other, first)));
}
