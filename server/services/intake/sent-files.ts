import { rm } from "node:fs/promises";
import path from "node:path";
import type { Origin } from "../../db/schema";
import { settings } from "../../settings";

/** Where what is sent for deliveries is put; each has a folder of its own. */
export function uploadsFolder(): string {
  return path.join(settings().home, "uploads");
}

/** Deletes what was sent for a delivery; files that lie elsewhere are not ours to delete. */
export async function removeSentFiles(origin: Origin): Promise<void> {
  if ((origin.kind === "files" || origin.kind === "addresses") && origin.folder.startsWith(uploadsFolder() + path.sep)) await rm(origin.folder, { recursive: true, force: true });
}
