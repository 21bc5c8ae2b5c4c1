import { createRequire } from "node:module";
import zlib from "node:zlib";

type Checksum = { unsigned: (bytes: Uint8Array, before?: number) => number };

/**
 * Lets the zip writer compute CRC-32 (ISO 3309, as APPNOTE.TXT asks for) by the runtime's own code where it has one
 * (Node 20.15 and later): the package that the writer brings computes it in JavaScript, eight times as slowly, and most
 * of what packing costs is this.
 */
export function useRuntimeChecksum(): void {
  const { crc32 } = zlib as { crc32?: (bytes: Uint8Array, before?: number) => number };
  if (!crc32) return;
  const writer = createRequire(createRequire(import.meta.url).resolve("yazl"));
  (writer("buffer-crc32") as Checksum).unsigned = (bytes, before) => crc32(bytes, before ?? 0);
}
