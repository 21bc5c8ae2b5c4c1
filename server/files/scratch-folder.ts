import { rmSync } from "node:fs";
import { mkdtemp, readdir, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { isLeftBehind, processMark } from "./process-mark";

const prefix = "larder-unpacked-";

const standing = new Set<string>();
process.once("exit", () => {
  for (const folder of standing) rmSync(folder, { recursive: true, force: true });
});

/** A folder for what is unpacked aside. It goes with `drop`, and at the latest when the process ends. */
export async function scratchFolder(): Promise<{ folder: string; drop: () => void }> {
  const folder = await mkdtemp(path.join(tmpdir(), `${prefix}${processMark()}-`));
  standing.add(folder);
  return {
    folder,
    drop: () => {
      standing.delete(folder);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** Removes the folders of processes that were killed. */
export async function removeScratchLeftBehind(): Promise<void> {
  for (const name of await readdir(tmpdir()))
    if (name.startsWith(prefix) && isLeftBehind(name.slice(prefix.length, name.lastIndexOf("-"))))
      await rm(path.join(tmpdir(), name), { recursive: true, force: true });
}
