/**
 * A large COCO file to yolo and through inspect, against JSON.parse of the same file read whole; each in a process of
 * its own.
 */
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { writeCocoFile } from "./coco-file";
import { measured, type Measured } from "./measured";

/**
 * What is written goes to memory where the machine has such a place: making 100,000 files takes a disk anything from 2
 * s to 30 s, by what else it does.
 */
const destinations = existsSync("/dev/shm") ? "/dev/shm" : tmpdir();

export async function benchConversion(images: number): Promise<void> {
  const folder = mkdtempSync(path.join(tmpdir(), "larder-bench-coco-"));
  const destination = mkdtempSync(path.join(destinations, "larder-bench-yolo-"));
  try {
    const file = path.join(folder, "instances_train.json");
    const bytes = await writeCocoFile(file, images);
    console.log(
      `COCO with ${images.toLocaleString("en-US")} images and ${(images * 10).toLocaleString("en-US")} objects, ${Math.round(bytes / 1e6)} MB:`,
    );
    for (let round = 1; round <= 3; round++) {
      const parse = measured("parse", file);
      const inspect = measured("inspect", file);
      const convert = measured("convert", file, path.join(destination, "yolo"));
      const line = (name: string, { seconds, megabytes }: Measured, aim: number | null) =>
        console.log(
          `  ${name.padEnd(34)} ${seconds.toFixed(1)} s, ${(seconds / parse.seconds).toFixed(2)} × JSON.parse${aim === null ? "" : ` (aim at most ${aim})`}, ${Math.round(megabytes)} MB resident`,
        );
      console.log(`round ${round}`);
      line("JSON.parse, read whole", parse, null);
      line("inspect", inspect, 1.5);
      line("convert to yolo, images=none", convert, 3);
      rmSync(path.join(destination, "yolo"), { recursive: true, force: true });
    }
  } finally {
    for (const place of [folder, destination]) rmSync(place, { recursive: true, force: true });
  }
}
