/** A worker's claim on a job: made, checked by every write, and given up. */
import { and, eq, sql } from "drizzle-orm";
import { holdBlobs } from "../db/blob-lock";
import { transaction, type Transaction } from "../db/database";
import { exists } from "../db/query";
import { jobs } from "../db/schema";
import { announce } from "./events";
import type { JobContext } from "./handler";
import { Lost } from "./job-ends";
import type { Job } from "./queue";

const leaseSeconds = 12;

/** Until when a claim stands that is made or renewed now. */
export const lease = sql`now() + make_interval(secs => ${leaseSeconds})`;

/**
 * Takes a job that waits, or whose worker let its lease lapse. Each claim has a number of its own, the fence: whoever
 * held the job before can tell that it does not any more. Null where there is nothing to take.
 */
export async function claim(jobId: string, worker: string): Promise<Job | null> {
  return transaction(async (tx) => {
    // A sweep that goes on ends first: what it removes, the job must not have found.
    await holdBlobs(tx);
    const [job] = await tx
      .update(jobs)
      .set({
        status: "running",
        worker,
        runs: sql`${jobs.runs} + 1`,
        fence: sql`${jobs.fence} + 1`,
        leaseUntil: lease,
        startedAt: sql`coalesce(${jobs.startedAt}, now())`,
      })
      .where(
        sql`${jobs.id} = ${jobId} and (${jobs.status} = 'queued' or (${jobs.status} = 'running' and ${jobs.leaseUntil} < now()))`,
      )
      .returning();
    return job ?? null;
  });
}

/** The condition that a row is the job under this very claim. */
export const claimed = (job: Job) => and(eq(jobs.id, job.id), eq(jobs.fence, job.fence), eq(jobs.status, "running"));

/** The one way a job writes: see JobContext. */
export function fencedWrite(job: Job): JobContext["write"] {
  return (work) =>
    transaction(async (tx, client) => {
      const result = await work(tx, client);
      // Asked last and locked: between here and the commit nobody can take the job over.
      const current = await exists(tx, sql`select 1 from ${jobs} where ${claimed(job)} for share`);
      if (!current) throw new Lost();
      return result;
    });
}

const given = { leaseUntil: null, worker: null };

/** Gives the claim up and lets the job wait; does nothing where it is another worker's by now. */
export async function release(job: Job, status: "paused" | "queued"): Promise<void> {
  await transaction(async (tx) => {
    const rows = await tx
      .update(jobs)
      .set({ status, ...given })
      .where(claimed(job))
      .returning({ id: jobs.id });
    if (rows.length > 0) await announce({ collection: job.collectionId, topics: ["jobs"], revision: null }, tx);
  });
}

/**
 * Ends a job together with what is written last: whoever sees the one sees the other. Returns false where `last` says
 * that it cannot end yet: what was written stands, and the job goes on. Throws Lost where it is another worker's by now;
 * then nothing is written.
 */
export async function endJob(
  job: Job,
  status: "done" | "failed" | "stopped",
  message: string,
  last: (tx: Transaction) => Promise<unknown>,
): Promise<boolean> {
  return transaction(async (tx) => {
    const ends = (await last(tx)) !== false;
    // Whoever was told that this job does what they ask for has committed before it ends, see addJob.
    const [own] = await tx
      .select({ id: jobs.id })
      .from(jobs)
      .where(claimed(job))
      .for(ends ? "update" : "share");
    if (!own) throw new Lost();
    if (!ends) return false;
    await tx
      .update(jobs)
      .set({ status, message, endedAt: new Date(), ...given })
      .where(eq(jobs.id, job.id));
    await announce({ collection: job.collectionId, topics: ["jobs"], revision: null }, tx);
    return true;
  });
}
