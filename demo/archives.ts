import { spawn } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdir, readFile } from "node:fs/promises";
import { availableParallelism } from "node:os";
import path from "node:path";
import { writeArchive } from "./archive";
import { demoDeliveries, type DemoDelivery } from "./shifts";

export type DemoArchive = Omit<DemoDelivery, "files"> & { path: string };

function drawPart(program: string, folder: string, share: number, part: number, of: number): Promise<void> {
  const child = spawn(process.execPath, [program, folder, String(share), String(part), String(of)], {
    stdio: ["ignore", "inherit", "inherit"],
  });
  return new Promise((resolve, reject) => {
    child.on("error", reject);
    child.on("exit", (code) => (code === 0 ? resolve() : reject(new Error(`drawing the demo ended with ${code}`))));
  });
}

/** The demo's archives in `folder`, drawn where they are not there yet, on all cores, by `program`: draw.ts, compiled. */
export async function demoArchives(folder: string, share: number, program: string): Promise<DemoArchive[]> {
  await mkdir(folder, { recursive: true });
  const deliveries = demoDeliveries(share);
  const target = (delivery: DemoDelivery) => path.join(folder, `${share}-${delivery.fileName}`);
  if (deliveries.some((delivery) => !existsSync(target(delivery)))) {
    const pictures = path.join(folder, `pictures-${share}`);
    const cores = availableParallelism();
    await Promise.all(Array.from({ length: cores }, (_, part) => drawPart(program, pictures, share, part, cores)));
    for (const delivery of deliveries) {
      const files = delivery.files.map((file) => ({
        path: file.path,
        bytes: () => readFile(path.join(pictures, delivery.fileName, file.path)),
      }));
      await writeArchive(target(delivery), files);
    }
  }
  return deliveries.map((delivery) => ({
    collection: delivery.collection,
    name: delivery.name,
    fileName: delivery.fileName,
    waiting: delivery.waiting ?? false,
    path: target(delivery),
  }));
}
