/**
 * Compares what objects and images look like in a collection that is too large for it to be done while somebody waits. What
 * is found is kept; of images that change nothing is said until it is compared again.
 */
import { eq, sql } from "drizzle-orm";
import { db, transaction } from "../../db/database";
import { exists } from "../../db/query";
import { collections, looksComparisons } from "../../db/schema";
import { announce } from "../../jobs/events";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import { addJob } from "../../jobs/queue";
import { larderActor } from "../actor";
import { unlearned } from "./learn";
import { inChecksThread } from "../checks/in-checks-thread";

/** Whether it is learned what everything in a collection looks like. */
export const isLearned = async (collection: number): Promise<boolean> =>
  !(await exists(db(), sql`select 1 from images i where ${unlearned} and i.collection_id = ${collection} limit 1`));

/** Puts the job up, once it is learned what everything looks like. */
export async function addComparing(collection: number): Promise<void> {
  if (!(await isLearned(collection))) return;
  await transaction(async (tx) => {
    const job = { kind: "compare-looks" as const, subject: collection, collectionId: collection };
    await addJob(larderActor, { ...job, title: "Comparing what objects look like" }, tx);
  });
}

async function compare({ job, progress }: JobContext): Promise<Ending | void> {
  const [collection] = await db().select().from(collections).where(eq(collections.id, job.subject));
  if (!collection) return;
  await progress(0, 1);
  const { changed, learned, found } = await inChecksThread("compareCollection", collection.id);
  const row = { changed, learned, found: Buffer.from(found) };
  return async (tx) => {
    await tx
      .insert(looksComparisons)
      .values({ collectionId: collection.id, ...row })
      .onConflictDoUpdate({ target: looksComparisons.collectionId, set: row });
    await announce({ collection: collection.id, topics: ["features"], revision: null }, tx);
  };
}

export const compareLooksHandler: JobHandler = { run: compare };
