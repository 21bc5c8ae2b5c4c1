/** How soon an intake sheet stands: reading a zip of 20,000 pictures, against reading its directory and parsing its annotations alone. */
import { Findings } from "@larder/core/model/finding";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { ZipTree } from "@larder/server/files/zip-tree";
import { work } from "@larder/server/jobs/run";
import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { deliveryRow } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";
import { jobHandlers } from "@larder/server/services/job-handlers";
import { settings } from "@larder/server/settings";
import { rmSync, statSync } from "node:fs";
import path from "node:path";

async function bare(archive: string): Promise<number> {
  const began = performance.now();
  const tree = await ZipTree.open(archive, settings().limits, new Findings());
  const parsed = JSON.parse(new TextDecoder().decode(await tree.read("annotations/instances.json"))) as { annotations: unknown[] };
  if (parsed.annotations.length === 0) throw new Error("nothing was parsed");
  tree.close();
  return (performance.now() - began) / 1000;
}

export async function benchSheet(images: number): Promise<void> {
  const archive = path.join(settings().home, "sheet.zip");
  await writeArchive(archive, await manyPictures(images, { width: 64, height: 48, seed: 5 }));
  const { id: collectionId } = await createCollection(localActor, { name: "Sheet" });
  const alone = await bare(archive);
  const stop = await work(jobHandlers, 1);
  const began = performance.now();
  const { id, job } = await receiveArchive(localActor, { collectionId, archive, keep: true, fileName: "sheet.zip", bytes: statSync(archive).size });
  await untilDone(job);
  const seconds = (performance.now() - began) / 1000;
  const { sheet } = await deliveryRow(id);
  stop();
  console.log(`The sheet of ${images.toLocaleString("en-US")} images and ${sheet?.objects.toLocaleString("en-US")} objects:`);
  console.log(`  directory and annotations alone ${alone.toFixed(1)} s · sheet ${seconds.toFixed(1)} s · ${(seconds / alone).toFixed(1)} ×`);
  rmSync(archive, { force: true });
}
