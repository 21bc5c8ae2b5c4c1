/**
 * Memory of a worker, as the start command runs it: most of it resident while it takes in, builds and packs, and what
 * is left once it rests.
 */
import { planSchema } from "@larder/core/plans/plan";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { untilDone } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { deliveryRow } from "@larder/server/services/deliveries";
import { createPlan } from "@larder/server/services/plans";
import { startPackage } from "@larder/server/services/packages";
import { startBuild } from "@larder/server/services/versions";
import { settings } from "@larder/server/settings";
import { once } from "node:events";
import { rmSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { residentMegabytes } from "./resident";
import { startWorker } from "./start-worker";
import { takeInArchive } from "./take-in";

const restSeconds = 20;

/** Does `work` and returns the most megabytes that the process had resident meanwhile. */
async function mostResident(pid: number, work: () => Promise<unknown>): Promise<number> {
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, residentMegabytes(pid, "VmRSS"))), 100);
  await work();
  clearInterval(watch);
  return Math.round(most);
}

async function measure(images: number): Promise<void> {
  const worker = await startWorker();
  const { pid } = worker;
  const atStart = Math.round(residentMegabytes(pid, "VmRSS"));
  const archive = path.join(settings().home, `worker-${images}.zip`);
  await writeArchive(archive, await manyPictures(images, { width: 640, height: 480, seed: images }));
  const { id } = await createCollection(localActor, { name: `Worker ${images}` });
  const intake = await mostResident(pid, async () => {
    const delivery = await takeInArchive(id, archive);
    if ((await deliveryRow(delivery)).taken?.images !== images) throw new Error("not all pictures were taken in");
  });
  const body = planSchema.parse({
    prepare: { resize: { mode: "fit", width: 416, height: 416, larger: true } },
    augment: { copies: 1 },
    pack: { formats: [] },
  });
  const plan = await createPlan(localActor, id, { name: "Build", body });
  let version = 0;
  const build = await mostResident(pid, async () => {
    const started = await startBuild(localActor, { planId: plan.id });
    version = started.id;
    await untilDone(started.job);
  });
  const pack = await mostResident(pid, async () => {
    for (const format of ["coco", "yolo"] as const) {
      const { job } = await startPackage(localActor, version, { format });
      await untilDone(job);
    }
  });
  await sleep(restSeconds * 1000);
  const rest = Math.round(residentMegabytes(pid, "VmRSS"));
  console.log(
    `  ${images.toLocaleString("en-US").padStart(6)} pictures: ${atStart} MB at the start; at most ${intake} MB taking in, ${build} MB building, ${pack} MB packing; ${rest} MB after ${restSeconds} s of rest`,
  );
  worker.kill("SIGTERM");
  await once(worker, "exit");
  rmSync(archive, { force: true });
}

/** Prints what a worker of its own holds for each number of pictures. */
export async function benchWorkerMemory(counts: readonly number[]): Promise<void> {
  console.log("Memory of a worker (640 × 480; each picture built twice; packed as coco and yolo):");
  for (const count of counts) await measure(count);
}
