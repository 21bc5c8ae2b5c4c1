/**
 * How soon an intake sheet stands: reading a zip of 20,000 pictures, against reading its directory and parsing its
 * annotations alone.
 */
import { Findings } from "@larder/core/model/finding";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import type { DemoFile } from "@larder/demo/shifts";
import { ZipTree } from "@larder/server/files/zip-tree";
import { work } from "@larder/server/jobs/work";
import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { deliveryRow, undoDelivery } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";
import { jobHandlers } from "@larder/server/services/job-handlers";
import { settings } from "@larder/server/settings";
import { rmSync } from "node:fs";
import path from "node:path";

const objectsAnImage = 10;

/** A COCO source of many images. Reading touches no pixel, so one picture under many names does. */
async function filesOf(images: number): Promise<DemoFile[]> {
  const [first] = await manyPictures(1, { width: 64, height: 48 });
  const bytes = await (first as DemoFile).bytes();
  const numbers = Array.from({ length: images }, (_, n) => n);
  const json = JSON.stringify({
    images: numbers.map((id) => ({ id, file_name: `tray_${String(id).padStart(6, "0")}.jpg`, width: 64, height: 48 })),
    annotations: numbers.flatMap((id) =>
      Array.from({ length: objectsAnImage }, (_, nth) => ({
        id: id * objectsAnImage + nth,
        image_id: id,
        category_id: nth % 6,
        iscrowd: 0,
        area: 80,
        bbox: [nth * 5, (id % 30) + 0.5, 10, 8],
      })),
    ),
    categories: Array.from({ length: 6 }, (_, id) => ({ id, name: `bread ${id}` })),
  });
  return [
    ...numbers.map((id) => ({
      path: `images/tray_${String(id).padStart(6, "0")}.jpg`,
      bytes: () => Promise.resolve(bytes),
    })),
    { path: "annotations/instances.json", bytes: () => Promise.resolve(new TextEncoder().encode(json)) },
  ];
}

async function bare(archive: string): Promise<number> {
  const began = performance.now();
  const tree = await ZipTree.open(archive, settings().limits, new Findings());
  const parsed = JSON.parse(new TextDecoder().decode(await tree.read("annotations/instances.json"))) as {
    annotations: unknown[];
  };
  if (parsed.annotations.length === 0) throw new Error("nothing was parsed");
  tree.close();
  return (performance.now() - began) / 1000;
}

export async function benchSheet(images: number): Promise<void> {
  const archive = path.join(settings().home, "sheet.zip");
  await writeArchive(archive, await filesOf(images));
  const { id: collectionId } = await createCollection(localActor, { name: "Sheet" });
  const alone = await bare(archive);
  const stop = await work(jobHandlers, 1);
  try {
    const began = performance.now();
    const { id, job } = await receiveArchive(localActor, {
      collectionId,
      archive,
      keep: true,
      fileName: "sheet.zip",
    });
    await untilDone(job);
    const seconds = (performance.now() - began) / 1000;
    const { sheet } = await deliveryRow(id);
    // Looking into the pictures would go on for long after.
    await undoDelivery(localActor, id);
    console.log(
      `The sheet of ${images.toLocaleString("en-US")} images and ${sheet?.objects.toLocaleString("en-US")} objects:`,
    );
    console.log(
      `  directory and annotations alone ${alone.toFixed(1)} s · sheet ${(sheet?.seconds ?? 0).toFixed(1)} s, ${((sheet?.seconds ?? 0) / alone).toFixed(1)} × · from its arrival ${seconds.toFixed(1)} s, the worker's start included`,
    );
  } finally {
    stop();
  }
  rmSync(archive, { force: true });
}
