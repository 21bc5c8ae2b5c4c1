/**
 * Run lengths looked at before they are trusted. The hybrid of run-length and bit-packed runs (parquet-format,
 * Encodings.md) holds levels and dictionary numbers; a damaged count would have the table reader fill memory for
 * minutes.
 */
import { snappyUncompress } from "hyparquet";

/** More values than a run needs are padding, of which writers leave a few groups at most. */
const padding = 1024;

/** Bits that numbers up to `most` take. */
export function bitsFor(most: number): number {
  return most === 0 ? 0 : 32 - Math.clz32(most);
}

/** Throws where the runs from `at` on hold far more than `count` values, or none. Returns where they end. */
export function checkRuns(bytes: Uint8Array, at: number, width: number, count: number): number {
  let seen = 0;
  while (seen < count) {
    let [header, shift] = [0, 0];
    for (;;) {
      const byte = bytes[at++];
      if (byte === undefined || shift > 28) throw new Error("a run is cut off");
      header |= (byte & 0x7f) << shift;
      if (!(byte & 0x80)) break;
      shift += 7;
    }
    const packed = (header & 1) === 1;
    const values = packed ? (header >>> 1) * 8 : header >>> 1;
    if (values > count - seen + padding) throw new Error("a run holds more values than its page");
    at += packed ? (values * width) / 8 : (width + 7) >> 3;
    // A run of nothing gets nowhere, but each takes a byte of the page, which ends.
    seen += values;
  }
  return at;
}

export type PageValues = {
  count: number;
  encoding: number | undefined;
  maxRepetition: number;
  maxDefinition: number;
  codec: string;
  uncompressed: number;
};

const rle = 3;
const dictionaryEncodings = new Set([2, 8]);

function unpacked(bytes: Uint8Array, { codec, uncompressed }: PageValues, length = uncompressed): Uint8Array | null {
  if (codec === "UNCOMPRESSED") return bytes;
  if (codec !== "SNAPPY") return null;
  const out = new Uint8Array(Math.max(0, length));
  snappyUncompress(bytes, out);
  return out;
}

function checkValues(bytes: Uint8Array, at: number, { encoding, count }: PageValues): void {
  if (encoding === undefined) return;
  // Nulls are left out of the values, so there may be fewer than `count`; a page without any holds none.
  if (dictionaryEncodings.has(encoding)) checkRunsLeniently(bytes, at + 1, bytes[at] ?? 0, count);
  else if (encoding === rle) checkRunsLeniently(bytes, at + 4, 1, count);
}

/** As checkRuns, for values of which nulls may have been left out: the page may end before `count`. */
function checkRunsLeniently(bytes: Uint8Array, at: number, width: number, count: number): void {
  try {
    checkRuns(bytes, at, width, count);
  } catch (error) {
    if (!/cut off/.test((error as Error).message)) throw error;
  }
}

/**
 * Levels and values of a data page of the first kind: all in one compressed piece, levels with their length before
 * them.
 */
export function checkFirstKind(page: Uint8Array, values: PageValues): void {
  const bytes = unpacked(page, values);
  if (!bytes) return;
  let at = 0;
  for (const most of [values.maxRepetition, values.maxDefinition]) {
    if (most === 0) continue;
    const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(at, true);
    checkRuns(bytes, at + 4, bitsFor(most), values.count);
    at += 4 + length;
  }
  checkValues(bytes, at, values);
}

/** Levels and values of a data page of the second kind: levels uncompressed, their lengths in the header. */
export function checkSecondKind(
  page: Uint8Array,
  values: PageValues,
  lengths: { repetition: number; definition: number },
  compressed: boolean,
): void {
  if (values.maxRepetition > 0) checkRuns(page, 0, bitsFor(values.maxRepetition), values.count);
  if (values.maxDefinition > 0) checkRuns(page, lengths.repetition, bitsFor(values.maxDefinition), values.count);
  const after = lengths.repetition + lengths.definition;
  const bytes = compressed ? unpacked(page.subarray(after), values, values.uncompressed - after) : page.subarray(after);
  if (bytes) checkValues(bytes, 0, values);
}
