import { bytesEach, nearCopyBits, nearPairs } from "@larder/core/checks/near-copies";

/** By the place of each picture those of others that are nearly the same, from their perceptual hashes in hexadecimal. */
export function nearCopiesOf(nearHashes: readonly string[]): Map<number, number[]> {
  const near = new Map<number, number[]>();
  const hashes = Buffer.from(nearHashes.join(""), "hex");
  const asked = { bytesEach, within: nearCopyBits, mostEach: nearHashes.length };
  for (const { position, of } of nearPairs(hashes, new Uint8Array(0), asked))
    near.set(position, [...(near.get(position) ?? []), of]);
  return near;
}
