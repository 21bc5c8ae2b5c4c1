/** The second half of an intake: what was not looked into yet is; then all of it becomes stock in one transaction. */
import { and, eq } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db } from "../../db/database";
import { deliveries } from "../../db/schema";
import { changed } from "../../jobs/events";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import { removeUnusedBlobs } from "../blob-sweep";
import { addLearning } from "../learning/learn";
import { addLookInto } from "./look-into";
import { findNearPairs } from "./near-copies";
import { lookingRests } from "./delivery-jobs";
import { removeTakenFiles } from "./sent-files";
import { removeMoved } from "./remove-moved";
import { shelve } from "./shelving/shelve";
import { stageAll } from "./staging";

async function takeIn({ job, progress, write }: JobContext): Promise<Ending | void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (!delivery || delivery.status !== "taking") return;
  while (!(await write((tx) => lookingRests(delivery.id, tx)))) {
    await progress(0, 0, "Taking over");
    await sleep(100);
  }
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
  return async (tx) => {
    await shelve(tx, delivery.id, delivery.collectionId, nearPairs, job.createdBy);
    await addLearning(tx);
    await removeMoved(tx, delivery, job.createdBy);
  };
}

export const takeInDelivery: JobHandler = {
  run: takeIn,
  async putBack(tx, job, sentence, stopped) {
    // What was looked into stays staged: taking in again goes on from there.
    const failure = stopped ? "Taking in was stopped; stock is as it was before." : sentence;
    // Looking into the pictures had given way to taking in, and the sheet still wants it. One that has yet to see
    // that it should give way would be taken for the new one, and end with nothing looked into.
    if (stopped && !(await lookingRests(job.subject, tx))) return false;
    if (job.collectionId !== null) await changed(tx, job.collectionId, "deliveries");
    const [delivery] = await tx
      .update(deliveries)
      .set({ status: "read", failure })
      .where(and(eq(deliveries.id, job.subject), eq(deliveries.status, "taking")))
      .returning();
    if (delivery && stopped && !delivery.looked) await addLookInto(delivery, tx);
    return true;
  },
  async afterwards() {
    await removeTakenFiles();
    await removeUnusedBlobs();
  },
};
