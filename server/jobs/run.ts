/** A worker's side of a job: claim it, keep its lease, report, end it well or badly. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { randomUUID } from "node:crypto";
import { setFlagsFromString } from "node:v8";
import { and, eq, sql } from "drizzle-orm";
import { db } from "../db/database";
import { jobs, type JobKind } from "../db/schema";
import { tuneForManyPictures } from "../pixels/tuning";
import { announce } from "./events";
import { handOut, queue, queueName, type Job } from "./queue";

const leaseSeconds = 12;
const renewMilliseconds = 3000;
const reportMilliseconds = 400;
/** A job that has taken down this many workers is not tried again. */
const mostRuns = 30;

export class Stopped extends Error {}

/** Thrown by `progress` where somebody asked to pause: the job goes back and waits to be resumed. */
export class Paused extends Error {}

export type JobContext = {
  job: Job;
  /** Says how far the work is; throws Stopped where somebody asked to stop. */
  progress: (done: number, total: number, message?: string) => Promise<void>;
};

export type JobHandler = {
  run: (context: JobContext) => Promise<void>;
  /** Puts the job's subject back where it was; `stopped` tells a wish from a failure. */
  abandon: (job: Job, sentence: string, stopped: boolean) => Promise<void>;
  /**
   * Clears away what nobody waits for, once the job is done. A worker may be lost before: what is left then is cleared
   * after the next job of its kind.
   */
  afterwards?: () => Promise<void>;
};

/**
 * Claims the job whose turn it is. One handed out is a word that there is work, not which: a collection that has fewer
 * jobs running comes first, then what people wait for before looking into pictures, then the collection that was
 * served longest ago, then what is oldest.
 */
async function claim(worker: string): Promise<Job | null> {
  const live = sql`${jobs.status} = 'running' and ${jobs.leaseUntil} >= now()`;
  const [job] = await db()
    .update(jobs)
    .set({
      status: "running",
      worker,
      runs: sql`${jobs.runs} + 1`,
      leaseUntil: sql`now() + make_interval(secs => ${leaseSeconds})`,
      startedAt: sql`coalesce(${jobs.startedAt}, now())`,
    })
    .where(
      sql`${jobs.id} = (
      select j.id from jobs j
      where j.status = 'queued' or (j.status = 'running' and j.lease_until < now())
      order by (select count(*) from ${jobs} where ${live} and ${jobs.collectionId} is not distinct from j.collection_id), j.kind = 'look-into',
        (select max(${jobs.startedAt}) from ${jobs} where ${jobs.collectionId} is not distinct from j.collection_id) nulls first, j.created_at, j.id
      limit 1 for update skip locked)`,
    )
    .returning();
  return job ?? null;
}

async function end(job: Job, status: "done" | "failed" | "stopped", message: string): Promise<void> {
  await db().update(jobs).set({ status, message, endedAt: new Date(), leaseUntil: null }).where(eq(jobs.id, job.id));
  await announce({ kind: "collection", collection: job.collectionId });
  await announce({ kind: "job", collection: job.collectionId });
}

/** Claims a job and runs it. Returns false where none waited. */
export async function runJob(worker: string, handlers: Record<JobKind, JobHandler>): Promise<boolean> {
  const job = await claim(worker);
  if (!job) return false;
  const handler = handlers[job.kind];
  let stop = job.stopRequested;
  let pause = job.pauseRequested;
  let lost = false;
  let succeeded = false;
  let reported = 0;
  const renew = setInterval(() => {
    void db()
      .update(jobs)
      .set({ leaseUntil: sql`now() + make_interval(secs => ${leaseSeconds})` })
      .where(and(eq(jobs.id, job.id), eq(jobs.worker, worker)))
      .returning({ stop: jobs.stopRequested, pause: jobs.pauseRequested })
      .then((rows) => {
        if (rows[0]) {
          stop ||= rows[0].stop;
          ({ pause } = rows[0]);
        } else lost = true;
      })
      .catch(() => undefined);
  }, renewMilliseconds);
  const progress: JobContext["progress"] = async (done, total, message) => {
    if (lost) throw new Error("another worker has taken this job over");
    const now = Date.now();
    if (now - reported >= reportMilliseconds || done === total) {
      reported = now;
      const [row] = await db()
        .update(jobs)
        .set({ done, total, ...(message !== undefined ? { message } : {}) })
        .where(eq(jobs.id, job.id))
        .returning({ stop: jobs.stopRequested, pause: jobs.pauseRequested });
      stop ||= row?.stop ?? true;
      pause = row?.pause ?? false;
      await announce({ kind: "job", collection: job.collectionId });
    }
    if (stop) throw new Stopped();
    if (pause) throw new Paused();
  };
  try {
    if (job.runs > mostRuns)
      throw new Failure(
        "worker-lost",
        `The worker was lost ${mostRuns} times while doing this; it is not tried again.`,
      );
    await progress(job.done, job.total);
    await handler.run({ job, progress });
    await end(job, "done", "");
    succeeded = true;
  } catch (error) {
    if (lost) return true;
    if (error instanceof Paused) {
      await db().update(jobs).set({ status: "paused", leaseUntil: null, worker: null }).where(eq(jobs.id, job.id));
      await announce({ kind: "job", collection: job.collectionId });
      return true;
    }
    const stopped = error instanceof Stopped;
    const { message } = stopped ? { message: "Stopped." } : sentenceFor(error);
    if (!stopped && !(error instanceof Failure))
      console.error(`${new Date().toISOString()} job ${job.kind} ${job.subject}:`, error);
    await handler.abandon(job, message, stopped);
    await end(job, stopped ? "stopped" : "failed", message);
  } finally {
    clearInterval(renew);
  }
  if (succeeded)
    await handler
      .afterwards?.()
      .catch((error: unknown) =>
        console.error(`${new Date().toISOString()} after job ${job.kind} ${job.subject}:`, error),
      );
  return true;
}

/**
 * Takes jobs from the queue, `atOnce` side by side, and picks up those whose worker was lost. Returns how to stop:
 * what runs is finished, nothing new is begun.
 */
export async function work(handlers: Record<JobKind, JobHandler>, atOnce: number): Promise<() => void> {
  tuneForManyPictures();
  // The heap doubles at most between two collections, so that long jobs do not fill the memory with what is garbage
  // already; less would have it collect all the time.
  setFlagsFromString("--heap-growing-percent=100");
  const worker = randomUUID();
  const boss = await queue();
  let stopping = false;
  const slots: string[] = [];
  for (let slot = 0; slot < atOnce; slot++) {
    const id = await boss.work(queueName, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async () => {
      // What waits meanwhile is begun at once, not when the queue is asked again.
      while (!stopping && (await runJob(worker, handlers)));
    });
    slots.push(id);
  }
  const rescue = async () => {
    const orphaned = await db()
      .select({ id: jobs.id })
      .from(jobs)
      .where(
        sql`(${jobs.status} = 'running' and ${jobs.leaseUntil} < now()) or (${jobs.status} = 'queued' and ${jobs.createdAt} < now() - interval '20 seconds')`,
      );
    for (const { id } of orphaned) await handOut(id);
  };
  const timer = setInterval(() => void rescue().catch(() => undefined), 4000);
  void rescue().catch(() => undefined);
  return () => {
    stopping = true;
    clearInterval(timer);
    for (const id of slots) void boss.offWork({ id }).catch(() => undefined);
  };
}
