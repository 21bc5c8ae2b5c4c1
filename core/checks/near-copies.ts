/**
 * Near-copies by perceptual hash: pictures whose hashes differ in few bits. Hashes lie one after the other in bytes, a
 * multiple of four bytes each.
 */
import { byGroup } from "../columns/by-group";
import { Column } from "../columns/column";
import { firstByte, instantiate, type Memory } from "../wasm/instantiate";
import { hashesBytes } from "../wasm/hashes-bytes";

/**
 * Bits of 256 by which two pictures may differ and still be nearly the same. On the demo's trays, two shots of one tray
 * differ in 2 to 26, in 40 where the tray was moved by five pixels; any other two pictures in 78 or more, but for empty
 * racks, which are nearly the same indeed.
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

  /** Puts the same hashes into `words` in another order, each given by its number. */
  copyInOrder(order: Int32Array, words: Uint32Array): void {
    const { wordsEach } = this;
    for (let at = 0; at < order.length; at++) {
      const from = (order[at] as number) * wordsEach;
      for (let n = 0; n < wordsEach; n++) words[at * wordsEach + n] = this.words[from + n] as number;
    }
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
export const hashDistance = (a: Uint8Array, b: Uint8Array): number =>
  a.reduce((bits, byte, at) => bits + setBits(byte ^ (b[at] as number)), 0);

type Comparing = Memory & {
  lastNear: (hashes: number, bytesEach: number, from: number, first: number, end: number, within: number) => number;
};

/** Bands of more bits than this would need a larger table than the comparing they spare is worth. */
const widestBand = (hashes: number) => Math.min(16, Math.max(4, Math.ceil(Math.log2(hashes + 1))));

/** A position in `among` and what it is nearly the same as: a position in `against`, or an earlier one in `among`. */
export type NearCopy = { position: number; of: number; from: "against" | "among" };

type Bands = { first: number; bits: number; within: number };

/**
 * Calls `take` with every two hashes at most `within` bits apart, the later one from `first` on, until `isDone` with it.
 * Such hashes agree in at least one of `within` + 1 bands (pigeonhole), so only those that share a band are compared; a
 * pair that shares several is taken in the first of them. Those that agree lie one after the other while they are compared,
 * so that memory is read in a row. It holds the hashes twice and a few numbers for each.
 */
function eachNear(
  hashes: Hashes,
  { first, bits, within }: Bands,
  { isDone, take }: { isDone: (later: number) => boolean; take: (later: number, earlier: number) => void },
): void {
  const bands = Math.min(bits, Math.max(within + 1, Math.ceil(bits / widestBand(hashes.length))));
  const { memory, reserve, lastNear } = instantiate<Comparing>(hashesBytes);
  reserve(firstByte + (hashes.length * bits) / 8);
  const ordered = new Uint32Array(memory.buffer, firstByte, (hashes.length * bits) / 32);
  const order = new Int32Array(hashes.length);
  const values = new Int32Array(hashes.length);
  const ends = new Int32Array(2 ** Math.ceil(bits / bands));
  const bandStart = (band: number) => Math.floor((band * bits) / bands);
  const bandOf = (nth: number, band: number) => hashes.bits(nth, bandStart(band), bandStart(band + 1));
  const wasMet = (later: number, earlier: number, before: number) => {
    for (let band = 0; band < before; band++) if (bandOf(later, band) === bandOf(earlier, band)) return true;
    return false;
  };
  for (let band = 0; band < bands; band++) {
    ends.fill(0);
    for (let nth = 0; nth < hashes.length; nth++) {
      const value = (values[nth] = bandOf(nth, band));
      ends[value] = (ends[value] as number) + 1;
    }
    let start = 0;
    ends.forEach((count, value) => {
      ends[value] = start;
      start += count;
    });
    for (let nth = 0; nth < hashes.length; nth++) {
      const value = values[nth] as number;
      order[ends[value] as number] = nth;
      ends[value] = (ends[value] as number) + 1;
    }
    hashes.copyInOrder(order, ordered);
    let groupStart = 0;
    for (const end of ends) {
      for (let at = groupStart; at < end; at++) {
        const later = order[at] as number;
        if (later < first) continue;
        for (let other = at; !isDone(later);) {
          other = lastNear(firstByte, bits / 8, at, groupStart, other, within);
          if (other < 0) break;
          const earlier = order[other] as number;
          if (!wasMet(later, earlier, band)) take(later, earlier);
        }
      }
      groupStart = end;
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
  eachNear(
    hashes,
    { first, bits: bytesEach * 8, within },
    { isDone: (later) => nearTo[later] !== -1, take: (later, earlier) => (nearTo[later] = earlier) },
  );
  return Array.from(nearTo.subarray(first), (other, at) => ({ other, at })).flatMap(({ other, at }) =>
    other < 0 ? [] : [placeOf(first + at, other, first)],
  );
}

/** Near-copies in columns: thousands of pictures that are all alike have millions of pairs. */
class NearPairs implements Iterable<NearCopy> {
  /** What position p is nearly the same as, as numbers among all hashes: those from `starts[p]` up to `starts[p + 1]`. */
  private readonly starts: Uint32Array;
  private readonly others: Uint32Array;

  /** Pairs of numbers among all hashes, of which `first` come before the `positions` asked about. */
  constructor(
    laters: Uint32Array,
    earliers: Uint32Array,
    positions: number,
    private readonly first: number,
  ) {
    const { order, starts } = byGroup(laters.length, positions, (pair) => (laters[pair] as number) - first);
    this.starts = starts;
    this.others = order.map((pair) => earliers[pair] as number);
  }

  get length(): number {
    return this.others.length;
  }

  *[Symbol.iterator](): Generator<NearCopy> {
    for (let position = 0; position + 1 < this.starts.length; position++)
      for (let at = this.starts[position] as number; at < (this.starts[position + 1] as number); at++)
        yield placeOf(this.first + position, this.others[at] as number, this.first);
  }
}

/**
 * Every near-copy of each position in `among`, ascending, earlier in `among` or anywhere in `against`; of each position the
 * first `mostEach` that are met.
 */
export function nearPairs(
  among: Uint8Array,
  against: Uint8Array,
  { bytesEach, within, mostEach }: { bytesEach: number; within: number; mostEach: number },
): Iterable<NearCopy> & { readonly length: number } {
  const hashes = Hashes.of([against, among], bytesEach);
  const first = against.length / bytesEach;
  const counts = new Uint32Array(hashes.length - first);
  const [laters, earliers] = [new Column(Uint32Array), new Column(Uint32Array)];
  eachNear(
    hashes,
    { first, bits: bytesEach * 8, within },
    {
      isDone: (later) => (counts[later - first] as number) >= mostEach,
      take(later, earlier) {
        laters.push(later);
        earliers.push(earlier);
        counts[later - first] = (counts[later - first] as number) + 1;
      },
    },
  );
  return new NearPairs(laters.used, earliers.used, counts.length, first);
}
