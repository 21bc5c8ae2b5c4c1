/**
 * Packing a version of pictures that no step changes, read back included, against copying the same pictures from the
 * store into one file, in turns.
 */
import { planSchema } from "@larder/core/plans/plan";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { blobs } from "@larder/server/blobs/store";
import { db } from "@larder/server/db/database";
import { versionSources } from "@larder/server/db/schema";
import { untilDone, untilEnded } from "@larder/server/jobs/wait";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { deletePackage, startPackage } from "@larder/server/services/packages";
import { createPlan } from "@larder/server/services/plans";
import { startBuild, versionsOf } from "@larder/server/services/versions";
import { settings } from "@larder/server/settings";
import { eq } from "drizzle-orm";
import { createWriteStream } from "node:fs";
import { rm } from "node:fs/promises";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { pipeline } from "node:stream/promises";
import { startWorker } from "./start-worker";
import { takeInArchive } from "./take-in";

const size = { width: 1280, height: 960 };
const rounds = 3;

type Frozen = { collection: number; version: number };

/** A frozen version of `images` pictures as they came, not packed yet. */
async function frozen(images: number): Promise<Frozen> {
  const archive = path.join(settings().home, `packing-${images}.zip`);
  await writeArchive(archive, await manyPictures(images, { ...size, seed: 5 }));
  const { id: collectionId } = await createCollection(localActor, { name: "To be packed" });
  await takeInArchive(collectionId, archive);
  await rm(archive);
  const body = planSchema.parse({ pack: { formats: [] } });
  const { id: planId } = await createPlan(localActor, collectionId, { name: "As they are", body });
  const version = await startBuild(localActor, { planId });
  await untilDone(version.job);
  return { collection: collectionId, version: version.id };
}

/** Copies a version's pictures into one file, one after the other; seconds and bytes. */
async function copied(version: number): Promise<{ seconds: number; bytes: number }> {
  const rows = await db()
    .select({ sha256: versionSources.sha256 })
    .from(versionSources)
    .where(eq(versionSources.versionId, version));
  const target = path.join(settings().home, "copied");
  const began = performance.now();
  let bytes = 0;
  await pipeline(async function* () {
    for (const { sha256 } of rows)
      for await (const chunk of await blobs().stream(sha256)) {
        bytes += (chunk as Buffer).length;
        yield chunk as Buffer;
      }
  }, createWriteStream(target));
  const seconds = (performance.now() - began) / 1000;
  await rm(target);
  return { seconds, bytes };
}

/** Packs a version; how long the job took, in seconds. */
async function packed({ version, collection }: Frozen, format: string): Promise<number> {
  const { job } = await startPackage(localActor, version, { format });
  const { startedAt, endedAt, status, message } = await untilEnded(job);
  if (status !== "done" || !startedAt || !endedAt) throw new Error(`it was not packed: ${message}`);
  // The next round packs it anew.
  for (const { id } of (await versionsOf(localActor, collection))[0]?.packages ?? [])
    await deletePackage(localActor, id);
  return (endedAt.getTime() - startedAt.getTime()) / 1000;
}

/** Prints seconds and their ratio. */
export async function benchPacking(images: number): Promise<void> {
  const worker = await startWorker();
  try {
    const made = await frozen(images);
    while ((await db().execute("select 1 from jobs where status in ('queued', 'running')")).rows.length > 0)
      await sleep(200);
    console.log(`Packing ${images} pictures of ${size.width} × ${size.height} as they came, read back included:`);
    for (let round = 1; round <= rounds; round++) {
      const copy = await copied(made.version);
      const [coco, yolo] = [await packed(made, "coco"), await packed(made, "yolo")];
      const ratio = (seconds: number) => `${seconds.toFixed(1)} s, ${(copy.seconds / seconds).toFixed(2)}`;
      console.log(
        `  round ${round}: copying ${Math.round(copy.bytes / 1e6)} MB ${copy.seconds.toFixed(1)} s; coco ${ratio(coco)}, yolo ${ratio(yolo)} of copying's speed (aim 0.8)`,
      );
    }
  } finally {
    worker.kill("SIGTERM");
  }
}
