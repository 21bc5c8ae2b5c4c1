/** A large COCO file to yolo and through inspect, against JSON.parse of the same file read whole; each in a process of its own. */
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeCocoFile } from "./coco-file";
import { measured, type Measured } from "./measured";

export async function benchConversion(images: number): Promise<void> {
  const folder = mkdtempSync(path.join(tmpdir(), "larder-bench-coco-"));
  try {
    const file = path.join(folder, "instances_train.json");
    const bytes = await writeCocoFile(file, images);
    console.log(`COCO with ${images.toLocaleString("en-US")} images and ${(images * 10).toLocaleString("en-US")} objects, ${Math.round(bytes / 1e6)} MB:`);
    for (let round = 1; round <= 2; round++) {
      const parse = measured("parse", file);
      const inspect = measured("inspect", file);
      const files = measured("files", String(images), path.join(folder, `files-${round}`));
      const convert = measured("convert", file, path.join(folder, `yolo-${round}`));
      const line = (name: string, { seconds, megabytes }: Measured, aim: number | null) => console.log(`  ${name.padEnd(46)} ${seconds.toFixed(1)} s, ${(seconds / parse.seconds).toFixed(2)} × JSON.parse${aim === null ? "" : ` (aim at most ${aim})`}, ${Math.round(megabytes)} MB resident`);
      console.log(`round ${round}`);
      line("JSON.parse, read whole", parse, null);
      line("inspect", inspect, 1.5);
      line("writing and reading as many label files, bare", files, null);
      line("convert to yolo, images=none", convert, 3);
      for (const written of ["yolo", "files"]) rmSync(path.join(folder, `${written}-${round}`), { recursive: true, force: true });
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
