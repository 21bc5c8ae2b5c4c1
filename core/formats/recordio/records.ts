/**
 * RecordIO: records of `{magic, length word, data}` padded to four bytes. The length word's upper three bits say which
 * part of a record it is (0 whole, 1 first, 2 middle, 3 last); a record is split where its data hold the magic number
 * at
 * a multiple of four, and the magic number is what stands between the parts.
 */
import { ByteReader } from "../byte-reader";
import { concatenate } from "../concatenate";

const magic = 0xced7230a;
const magicBytes = new Uint8Array([0x0a, 0x23, 0xd7, 0xce]);
const lengthMask = (1 << 29) - 1;

export type ImageRecord = { id: number; labels: number[]; pieces: [number, number][] };

function padded(length: number): number {
  return (length + 3) & ~3;
}

/** Cuts data into parts between magic numbers that stand at multiples of four. */
function partsOf(data: Uint8Array): Uint8Array[] {
  const parts: Uint8Array[] = [];
  let start = 0;
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  for (let at = 0; at + 4 <= data.length; at += 4) {
    if (view.getUint32(at, true) !== magic) continue;
    parts.push(data.subarray(start, at));
    start = at + 4;
  }
  parts.push(data.subarray(start));
  return parts;
}

/** One record's bytes: header `{flag, label, id, id2}`, further labels where there are several, and the picture. */
export function encodeRecord(id: number, labels: readonly number[], picture: Uint8Array): Uint8Array {
  const several = labels.length !== 1;
  const head = new DataView(new ArrayBuffer(24 + (several ? labels.length * 4 : 0)));
  head.setUint32(0, several ? labels.length : 0, true);
  head.setFloat32(4, several ? 0 : (labels[0] as number), true);
  head.setBigUint64(8, BigInt(id), true);
  if (several) labels.forEach((label, n) => head.setFloat32(24 + 4 * n, label, true));
  const parts = partsOf(concatenate([new Uint8Array(head.buffer), picture]));
  return concatenate(
    parts.flatMap((part, n) => {
      const which = parts.length === 1 ? 0 : n === 0 ? 1 : n === parts.length - 1 ? 3 : 2;
      const words = new DataView(new ArrayBuffer(8));
      words.setUint32(0, magic, true);
      words.setUint32(4, ((which << 29) | part.length) >>> 0, true);
      return [new Uint8Array(words.buffer), part, new Uint8Array(padded(part.length) - part.length)];
    }),
  );
}

/** Every record of a file, with the byte ranges of its picture. Throws where the file is damaged or cut off. */
export async function* readRecords(stream: AsyncIterable<Uint8Array>): AsyncIterable<ImageRecord> {
  const reader = new ByteReader(stream);
  let parts: Uint8Array[] = [];
  let ranges: [number, number][] = [];
  try {
    for (;;) {
      const at = reader.position;
      const head = await reader.take(8);
      if (head.length === 0 && parts.length === 0) return;
      if (head.length < 8) throw new Error("it is cut off");
      const words = new DataView(head.buffer, head.byteOffset, 8);
      const which = words.getUint32(4, true) >>> 29;
      const length = words.getUint32(4, true) & lengthMask;
      if (words.getUint32(0, true) !== magic || which > 3) throw new Error(`there is no record at byte ${at}`);
      const data = (await reader.take(length)).slice();
      const padding = await reader.take(padded(length) - length);
      if (data.length < length || padding.length < padded(length) - length) throw new Error("it is cut off");
      if (which === 0 || which === 1) [parts, ranges] = [[data], [[at + 8, length]]];
      else {
        // The magic number of this part's own head stands for the one that was cut out.
        parts.push(magicBytes, data);
        ranges.push([at, 4], [at + 8, length]);
      }
      if (which === 0 || which === 3) {
        yield imageRecord(concatenate(parts), ranges);
        [parts, ranges] = [[], []];
      }
    }
  } finally {
    await reader.close();
  }
}

function imageRecord(data: Uint8Array, ranges: [number, number][]): ImageRecord {
  if (data.length < 24) throw new Error("a record is too short for its header");
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const flag = view.getUint32(0, true);
  if (24 + flag * 4 > data.length) throw new Error("a record is too short for its labels");
  const labels =
    flag === 0 ? [view.getFloat32(4, true)] : Array.from({ length: flag }, (_, n) => view.getFloat32(24 + 4 * n, true));
  let skip = 24 + flag * 4;
  const pieces: [number, number][] = [];
  for (const [offset, length] of ranges) {
    const cut = Math.min(skip, length);
    skip -= cut;
    if (length > cut) pieces.push([offset + cut, length - cut]);
  }
  return { id: Number(view.getBigUint64(8, true)), labels, pieces };
}
