/** What workers that were killed leave behind: half-written files, and bytes of which no row knows. */
import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { blobs } from "../blobs/store";
import { isLeftBehind, processMark } from "../files/process-mark";
import { removeScratchLeftBehind } from "../files/scratch-folder";
import { settings } from "../settings";
import { nameOrphans, removeUnusedBlobs } from "./blob-sweep";

const marksFolder = () => path.join(settings().home, "workers");

/**
 * Clears away after workers that were killed, and marks this one as running. Returns how to say that it ends as it
 * should: then nothing has to be looked for after it.
 */
export async function clearLeftovers(): Promise<() => void> {
  const folder = marksFolder();
  mkdirSync(folder, { recursive: true });
  const fallen = readdirSync(folder).filter(isLeftBehind);
  const own = path.join(folder, processMark());
  writeFileSync(own, "");
  await blobs().removeLeftBehind();
  await removeScratchLeftBehind();
  if (fallen.length > 0) {
    await nameOrphans();
    await removeUnusedBlobs();
    for (const mark of fallen) rmSync(path.join(folder, mark), { force: true });
  }
  return () => existsSync(own) && rmSync(own, { force: true });
}
