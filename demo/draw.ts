/**
 * Draws a share of the demo's pictures into a folder: `draw.ts FOLDER SHARE PART OF`. Several of these run side by
 * side.
 */
import { existsSync } from "node:fs";
import { mkdir, rename, writeFile } from "node:fs/promises";
import path from "node:path";
import { demoDeliveries } from "./shifts";

const [folder, share, part, of] = process.argv.slice(2) as [string, string, string, string];
let nth = 0;
for (const delivery of demoDeliveries(Number(share))) {
  for (const file of delivery.files) {
    if (nth++ % Number(of) !== Number(part)) continue;
    const target = path.join(folder, delivery.fileName, file.path);
    if (existsSync(target)) continue;
    await mkdir(path.dirname(target), { recursive: true });
    await writeFile(`${target}.part`, await file.bytes());
    await rename(`${target}.part`, target);
  }
}
