/** Which delivery the files of a sending were begun for: after a reload the same files go on with the same one. */
import { sha256OfText } from "@larder/core/model/sha256";
import type { Outgoing } from "./batches";

/** What tells a set of files from any other: where they are, how long, and when they were last changed. */
export function fingerprintOf(files: readonly Pick<Outgoing, "path" | "size" | "file">[]): string {
  const lines = files.map(({ path, size, file }) => `${path}\n${size}\n${file.lastModified}`).sort();
  return sha256OfText(lines.join("\n"));
}

const keyOf = (collection: number, fingerprint: string) => `larder-sending-${collection}-${fingerprint}`;

/** The delivery that was begun for these files; null where none was, or it is done. */
export function begunDelivery(collection: number, fingerprint: string): number | null {
  const id = Number(localStorage.getItem(keyOf(collection, fingerprint)) ?? 0);
  return Number.isInteger(id) && id > 0 ? id : null;
}

export function rememberBegun(collection: number, fingerprint: string, delivery: number): void {
  localStorage.setItem(keyOf(collection, fingerprint), String(delivery));
}

export function forgetBegun(collection: number, fingerprint: string): void {
  localStorage.removeItem(keyOf(collection, fingerprint));
}
