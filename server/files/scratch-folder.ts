import { rmSync } from "node:fs";
import { mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";

const standing = new Set<string>();
process.once("exit", () => {
  for (const folder of standing) rmSync(folder, { recursive: true, force: true });
});

/** A folder for what is unpacked aside. It goes with `drop`, and at the latest when the process ends. */
export async function scratchFolder(): Promise<{ folder: string; drop: () => void }> {
  const folder = await mkdtemp(path.join(tmpdir(), "larder-unpacked-"));
  standing.add(folder);
  return {
    folder,
    drop: () => {
      standing.delete(folder);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
