/** The second half of an intake: what was not looked into yet is; then all of it becomes stock in one transaction. */
import { and, eq, inArray } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db } from "../../db/database";
import { deliveries, jobs } from "../../db/schema";
import { changed } from "../../jobs/events";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { removeUnusedBlobs } from "../blob-sweep";
import { addLearning } from "../learning/learn";
import { addLookInto } from "./look-into";
import { findNearPairs } from "./near-copies";
import { jobRuns } from "./delivery-jobs";
import { removeTakenFiles } from "./sent-files";
import { removeMoved } from "./remove-moved";
import { shelve } from "./shelving/shelve";
import { stageAll } from "./staging";

async function takeIn({ job, progress, write }: JobContext): Promise<void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (!delivery || delivery.status !== "taking") return;
  // Looking into the pictures ends by itself when it sees that they are being taken in.
  while (await jobRuns(delivery.id, "look-into")) {
    await progress(0, 0, "Taking over");
    await sleep(100);
  }
  // What waits or is paused has nothing left to do.
  await write((tx) =>
    tx
      .update(jobs)
      .set({ status: "done", message: "", endedAt: new Date() })
      .where(
        and(eq(jobs.kind, "look-into"), eq(jobs.subject, delivery.id), inArray(jobs.status, ["queued", "paused"])),
      ),
  );
  let total = 0;
  await stageAll(
    delivery,
    write,
    (done, all) => progress(done, (total = all) + 1, "Taking in"),
    () => Promise.resolve(true),
  );
  await progress(total, total + 1, "Putting it on the shelf");
  // Counted anew: looking may not have come to its end, and pictures may have been left out since.
  const nearPairs = await findNearPairs(delivery.id, delivery.collectionId);
  await write(async (tx) => {
    await shelve(tx, delivery.id, delivery.collectionId, nearPairs, job.createdBy);
    await addLearning(tx);
    await removeMoved(tx, delivery, job.createdBy);
  });
}

export const takeInDelivery: JobHandler = {
  run: takeIn,
  async abandon({ job, write }, sentence, stopped) {
    // What was looked into stays staged: taking in again goes on from there.
    await write(async (tx) => {
      if (job.collectionId !== null) await changed(tx, job.collectionId, "deliveries");
      const [delivery] = await tx
        .update(deliveries)
        .set({ status: "read", failure: stopped ? "Taking in was stopped; stock is as it was before." : sentence })
        .where(and(eq(deliveries.id, job.subject), eq(deliveries.status, "taking")))
        .returning();
      // Looking into the pictures had given way to taking in; the sheet still wants it.
      if (delivery && stopped && !delivery.looked) await addLookInto(delivery, tx);
    });
  },
  async afterwards() {
    await removeTakenFiles();
    await removeUnusedBlobs();
  },
};
