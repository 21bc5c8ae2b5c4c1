/** Framed records: length (uint64, little endian), its masked CRC-32C, the bytes, their masked CRC-32C. */
import { ByteReader } from "../byte-reader";
import { concatenate } from "../concatenate";
import { maskedCrc32c } from "./crc32c";

/** Longer than any picture; a length beyond it is a damaged file even where its checksum fits. */
const longestRecord = 2 ** 30;

export function encodeRecord(data: Uint8Array): Uint8Array {
  const head = new DataView(new ArrayBuffer(12));
  head.setBigUint64(0, BigInt(data.length), true);
  head.setUint32(8, maskedCrc32c(new Uint8Array(head.buffer, 0, 8)), true);
  const tail = new DataView(new ArrayBuffer(4));
  tail.setUint32(0, maskedCrc32c(data), true);
  return concatenate([new Uint8Array(head.buffer), data, new Uint8Array(tail.buffer)]);
}

export type FramedRecord = { data: Uint8Array; offset: number } | { damaged: string; last: boolean };

/**
 * Every record with the offset of its data; a damaged one is said to be so, and ends the file where its length cannot
 * be trusted.
 */
export async function* readFramedRecords(stream: AsyncIterable<Uint8Array>): AsyncIterable<FramedRecord> {
  const reader = new ByteReader(stream);
  try {
    for (let number = 1; ; number++) {
      const head = await reader.take(12);
      if (head.length === 0) return;
      const view = new DataView(head.buffer, head.byteOffset, head.length);
      if (head.length < 12) {
        yield { damaged: `record ${number} is cut off`, last: true };
        return;
      }
      const length = Number(view.getBigUint64(0, true));
      if (view.getUint32(8, true) !== maskedCrc32c(head.subarray(0, 8)) || length > longestRecord) {
        yield {
          damaged: `the length of record ${number} has a wrong checksum; what follows cannot be read`,
          last: true,
        };
        return;
      }
      const offset = reader.position;
      const data = (await reader.take(length)).slice();
      const tail = await reader.take(4);
      if (data.length < length || tail.length < 4) {
        yield { damaged: `record ${number} is cut off`, last: true };
        return;
      }
      if (new DataView(tail.buffer, tail.byteOffset, 4).getUint32(0, true) !== maskedCrc32c(data))
        yield { damaged: `record ${number} has a wrong checksum`, last: false };
      else yield { data, offset };
    }
  } finally {
    await reader.close();
  }
}
