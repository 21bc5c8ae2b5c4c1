/**
 * Intake of many pictures from a zip, against a bare loop that unzips, hashes and makes the same thumbnails at the
 * same concurrency.
 */
import { Findings } from "@larder/core/model/finding";
import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import { FolderStore, sha256 } from "@larder/server/blobs/store";
import { ZipTree } from "@larder/server/files/zip-tree";
import { work } from "@larder/server/jobs/work";
import { recentJobs, requestStop } from "@larder/server/jobs/queue";
import { untilDone, untilEnded } from "@larder/server/jobs/wait";
import { thumbnail, thumbnailAndNearHash } from "@larder/server/pixels/thumbnail";
import { localActor } from "@larder/server/services/actor";
import { createCollection } from "@larder/server/services/collections";
import { deliveryRow, takeInDelivery } from "@larder/server/services/deliveries";
import { receiveArchive } from "@larder/server/services/intake/receive";
import { jobHandlers } from "@larder/server/services/job-handlers";
import { settings } from "@larder/server/settings";
import { rename } from "node:fs/promises";
import { measured } from "./measured";
import path from "node:path";

/** Reads every picture of an archive and does `work` with it, as many at once as an intake; in seconds. */
async function loop(archive: string, work: (bytes: Uint8Array) => Promise<unknown>): Promise<number> {
  const began = performance.now();
  const { limits, imagesAtOnce } = settings();
  const tree = await ZipTree.open(archive, limits, new Findings());
  const pictures = (await tree.entries()).filter((entry) => entry.path.endsWith(".jpg"));
  let next = 0;
  await Promise.all(
    Array.from({ length: imagesAtOnce }, async () => {
      while (next < pictures.length) await work(await tree.read((pictures[next++] as { path: string }).path));
    }),
  );
  tree.close();
  return (performance.now() - began) / 1000;
}

/** Unzips, hashes and makes the thumbnail. */
const bareLoop = (archive: string) =>
  loop(archive, (bytes) => {
    sha256(bytes);
    return thumbnail(bytes, settings().limits.pixels);
  });

/** The same, with what an intake's pictures cannot do without: the near-copy hash, and both files in a store. */
function storingLoop(archive: string, folder: string): Promise<number> {
  const store = new FolderStore(folder);
  return loop(archive, async (bytes) => {
    const hash = sha256(bytes);
    const made = await thumbnailAndNearHash(bytes, settings().limits.pixels);
    await store.put(hash, bytes);
    await store.putDerived("thumbnails", hash, made.thumbnail);
  });
}

/** One delivery from arrival to shelf, in seconds, with the most memory seen. */
export async function intake(archive: string, nth: number): Promise<{ reading: number; taking: number; peak: number }> {
  const { id: collectionId } = await createCollection(localActor, { name: `Bench ${nth}` });
  let peak = 0;
  const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 100);
  const began = performance.now();
  const delivery = await receiveArchive(localActor, {
    collectionId,
    archive,
    keep: true,
    fileName: "bench.zip",
  });
  await untilDone(delivery.job);
  const read = performance.now();
  const { job } = await takeInDelivery(localActor, delivery.id);
  await untilDone(job as string);
  const ended = performance.now();
  clearInterval(watch);
  const { taken } = await deliveryRow(delivery.id);
  console.log(`  taken in: ${taken?.images} images, ${taken?.objects} objects`);
  return { reading: (read - began) / 1000, taking: (ended - read) / 1000, peak };
}

/** Ends what is learned in the background: its home is about to be taken away. */
async function endRunning(): Promise<void> {
  for (const { id, status } of await recentJobs())
    if (status === "running") {
      await requestStop(id);
      await untilEnded(id);
    }
}

const rounds = 4;

/**
 * Prints throughputs and their ratio; the bare loop runs before and after each intake, so that both see the same
 * machine.
 */
export async function benchIntake(images: number): Promise<void> {
  const archive = path.join(settings().home, `bench-${images}.zip`);
  console.log(`Intake of ${images} pictures of 1280 × 960`);
  await writeArchive(archive, await manyPictures(images, { width: 1280, height: 960 }));
  const stop = await work(jobHandlers, 1);
  try {
    const bare: number[] = [];
    const storing: number[] = [];
    const took: number[] = [];
    const cold: number[] = [];
    for (let nth = 0; nth < rounds; nth++) {
      const before = await bareLoop(archive);
      const { reading, taking, peak } = await intake(archive, nth);
      took.push(taking);
      await rename(path.join(settings().home, "store"), path.join(settings().home, `store-${nth}`));
      cold.push(measured("intake", archive, "taking").seconds);
      storing.push(await storingLoop(archive, path.join(settings().home, `loop-${nth}`)));
      bare.push((before + (await bareLoop(archive))) / 2);
      console.log(
        `  bare loop ${(images / (bare[nth] as number)).toFixed(1)} images/s · intake ${(images / taking).toFixed(1)} images/s · sheet after ${reading.toFixed(1)} s · memory at most ${Math.round(peak / 1e6)} MB`,
      );
      // The next round would find every picture stored already. Moved, not deleted: a file system is slower where much
      // was deleted just before.
      await rename(path.join(settings().home, "store"), path.join(settings().home, `store-cold-${nth}`));
    }
    const sum = (values: readonly number[]) => values.reduce((a, b) => a + b, 0);
    const ratio = (one: readonly number[], other: readonly number[]) => (sum(one) / sum(other)).toFixed(2);
    console.log(`  ratio of throughputs, intake to bare loop: ${ratio(bare, took)} (aim: 0.9)`);
    console.log(`  the same with a process that has done nothing yet: ${ratio(bare, cold)} (aim: 0.8)`);
    console.log(`  intake to a loop that also stores and hashes for near copies: ${ratio(storing, took)}`);
    console.log(`  that loop to the bare one: ${ratio(bare, storing)}`);
  } finally {
    stop();
    await endRunning();
  }
}
