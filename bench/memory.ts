/**
 * Memory of taking in a zip, by its number of pictures: each in a process of its own, tiny pictures so that only the
 * number counts.
 */
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { settings } from "@larder/server/settings";
import { rmSync } from "node:fs";
import path from "node:path";
import { measured } from "./measured";

export async function benchMemory(counts: readonly number[]): Promise<void> {
  console.log("Taking in a zip of tiny pictures, most memory resident in the process that does it:");
  for (const count of counts) {
    const archive = path.join(settings().home, `memory-${count}.zip`);
    await writeArchive(archive, await manyPictures(count, { width: 64, height: 48, seed: count }));
    const { seconds, megabytes } = measured("intake", archive);
    console.log(
      `  ${count.toLocaleString("en-US").padStart(7)} pictures: ${Math.round(megabytes)} MB, ${seconds.toFixed(1)} s`,
    );
    rmSync(archive, { force: true });
  }
}
