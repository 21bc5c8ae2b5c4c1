/**
 * The whole way of a page of pictures (taken in, built, packed twice) against a bare loop of the image library that
 * decodes, resizes and encodes the same pictures: a thumbnail of each, and each picture of the version.
 */
import { planSchema } from "@larder/core/plans/plan";
import { Findings } from "@larder/core/model/finding";
import { isImagePath } from "@larder/core/model/file-tree";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { ZipTree } from "@larder/server/files/zip-tree";
import { untilDone } from "@larder/server/jobs/wait";
import { thumbnail } from "@larder/server/pixels/thumbnail";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { createPlan } from "@larder/server/services/plans";
import { startBuild, versionsOf } from "@larder/server/services/versions";
import { settings } from "@larder/server/settings";
import { db } from "@larder/server/db/database";
import { exists } from "@larder/server/db/query";
import { sql } from "drizzle-orm";
import pLimit from "p-limit";
import { rmSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import sharp from "sharp";
import { startWorker } from "./start-worker";
import { takeInArchive } from "./take-in";

const size = { width: 416, height: 416 };

const plan = planSchema.parse({
  split: { ratio: { train: 70, val: 15, test: 15 } },
  prepare: { resize: { mode: "fit", ...size, larger: true } },
  augment: { copies: 1, do: [{ op: "flip-sideways", chance: 0.5 }] },
  pack: { formats: ["coco", "yolo"] },
});

/** Decodes, resizes and encodes: a thumbnail of each picture, then `outputs` pictures as the plan makes them. */
async function bareLoop(archive: string, outputs: number): Promise<number> {
  const began = performance.now();
  const { limits, imagesAtOnce } = settings();
  const tree = await ZipTree.open(archive, limits, new Findings());
  const pictures = (await tree.entries()).filter((entry) => isImagePath(entry.path));
  const limit = pLimit(imagesAtOnce);
  const read = async (nth: number) => tree.read(pictures[nth % pictures.length]?.path ?? "");
  await Promise.all(
    pictures.map((_, nth) => limit(async () => void (await thumbnail(await read(nth), limits.pixels)))),
  );
  await Promise.all(
    Array.from({ length: outputs }, (_, nth) =>
      limit(async () => {
        const resized = sharp(await read(nth)).resize({ ...size, fit: "inside" });
        await resized.jpeg({ quality: 92 }).toBuffer();
      }),
    ),
  );
  tree.close();
  return (performance.now() - began) / 1000;
}

async function untilPacked(collection: number): Promise<void> {
  for (;;) {
    const [version] = await versionsOf(localActor, collection);
    const failed = version?.packages.find(({ status }) => status === "failed");
    if (failed) throw new Error(failed.failure ?? "a package failed");
    if (version && version.packages.length > 0 && version.packages.every(({ status }) => status === "ready")) return;
    await sleep(50);
  }
}

type Steps = { taking: number; building: number; packing: number; outputs: number };

async function wholeWay(archive: string): Promise<Steps> {
  const seconds = async (step: () => Promise<unknown>) => {
    const began = performance.now();
    await step();
    return (performance.now() - began) / 1000;
  };
  const { id: collectionId } = await createCollection(localActor, { name: "A page" });
  const taking = await seconds(() => takeInArchive(collectionId, archive));
  const { id: planId } = await createPlan(localActor, collectionId, { name: "Page", body: plan });
  const building = await seconds(async () => untilDone((await startBuild(localActor, { planId })).job));
  // Both packages follow the build by themselves, each in a worker of its own.
  const packing = await seconds(() => untilPacked(collectionId));
  return { taking, building, packing, outputs: (await versionsOf(localActor, collectionId))[0]?.numbers?.images ?? 0 };
}

/** Prints seconds and the ratio; the loop runs before and after, so that both see the same machine. */
export async function benchPipeline(images: number): Promise<void> {
  const archive = path.join(settings().home, `page-${images}.zip`);
  await writeArchive(archive, await manyPictures(images, { width: 1280, height: 960, seed: 7 }));
  const outputs = Math.round(images * 1.7);
  const workers = await Promise.all(Array.from({ length: settings().jobsAtOnce }, startWorker));
  try {
    const before = await bareLoop(archive, outputs);
    const way = await wholeWay(archive);
    // What is learned in the background would stand in the way of the second loop.
    while (await exists(db(), sql`select 1 from jobs where status in ('queued', 'running')`)) await sleep(200);
    const after = await bareLoop(archive, outputs);
    const loop = (before + after) / 2;
    const whole = way.taking + way.building + way.packing;
    const steps = `taken in ${way.taking.toFixed(1)} s, built ${way.building.toFixed(1)} s, packed twice ${way.packing.toFixed(1)} s`;
    console.log(
      `A page of ${images} pictures of 1280 × 960, ${way.outputs} out: ${steps}; the loop ${before.toFixed(1)} and ${after.toFixed(1)} s`,
    );
    console.log(`  whole way to the loop: ${(whole / loop).toFixed(2)} (aim: at most 1.3)`);
  } finally {
    for (const worker of workers) worker.kill("SIGTERM");
    rmSync(archive, { force: true });
  }
}
