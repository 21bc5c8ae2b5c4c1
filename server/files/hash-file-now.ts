import { createHash } from "node:crypto";
import { closeSync, openSync, readSync } from "node:fs";

const blockBytes = 1 << 20;

/** The SHA-256 of a file's bytes in hexadecimal digits, worked out in this thread. Throws where it cannot be read. */
export function hashFileNow(file: string): string {
  const hash = createHash("sha256");
  const block = Buffer.allocUnsafe(blockBytes);
  const handle = openSync(file, "r");
  try {
    for (let read = readSync(handle, block); read > 0; read = readSync(handle, block))
      hash.update(block.subarray(0, read));
  } finally {
    closeSync(handle);
  }
  return hash.digest("hex");
}
