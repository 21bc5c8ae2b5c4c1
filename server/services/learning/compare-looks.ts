/**
 * Compares what objects and images look like in a collection that is too large for it to be done while somebody waits. What
 * is found is kept; of images that change nothing is said until it is compared again.
 */
import { eq, sql } from "drizzle-orm";
import { Piscina } from "piscina";
import { db, transaction } from "../../db/database";
import { exists } from "../../db/query";
import { collections, looksComparisons } from "../../db/schema";
import { interruption } from "../../interruption";
import { announce } from "../../jobs/events";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { addJob } from "../../jobs/queue";
import { programFile } from "../../program-file";
import { larderActor } from "../actor";
import { unlearned } from "./learn";
import type { Comparison } from "./looks-thread";

/** Puts the job up, once it is learned what everything looks like. */
export async function addComparing(collection: number): Promise<void> {
  if (await exists(db(), sql`select 1 from images i where ${unlearned} and i.collection_id = ${collection} limit 1`))
    return;
  await transaction(async (tx) => {
    const job = { kind: "compare-looks" as const, subject: collection, collectionId: collection };
    await addJob(larderActor, { ...job, title: "Comparing what objects look like" }, tx);
  });
}

async function compare({ job, progress, write }: JobContext): Promise<void> {
  const [collection] = await db().select().from(collections).where(eq(collections.id, job.subject));
  if (!collection) return;
  await progress(0, 1);
  // A thread of its own: comparing looks up for nothing, and the worker has to keep its lease.
  const threads = new Piscina<number, Comparison>({
    filename: programFile("looks-thread"),
    name: "compareCollection",
    maxThreads: 1,
    atomics: "disabled",
  });
  try {
    const signal = interruption();
    const { changed, learned, found } = await threads.run(collection.id, signal ? { signal } : {});
    const row = { changed, learned, found: Buffer.from(found) };
    await write(async (tx) => {
      await tx
        .insert(looksComparisons)
        .values({ collectionId: collection.id, ...row })
        .onConflictDoUpdate({ target: looksComparisons.collectionId, set: row });
      await announce({ collection: collection.id, topics: ["features"], revision: null }, tx);
    });
  } finally {
    await threads.destroy();
  }
}

export const compareLooksHandler: JobHandler = { run: compare, abandon: () => Promise.resolve() };
