/** A worker's side of a job: claim it, keep its lease, report, write only while it is still its own, end it well or badly. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { and, eq, sql } from "drizzle-orm";
import { randomUUID } from "node:crypto";
import { setFlagsFromString } from "node:v8";
import { z } from "zod";
import { holdBlobs } from "../db/blob-lock";
import { db, transaction, type Transaction } from "../db/database";
import { exists, rowsOf } from "../db/query";
import { jobs, type JobKind } from "../db/schema";
import { tuneForManyPictures } from "../pixels/tuning";
import { announce, onEvent } from "./events";
import { addJob, handOutAgain, mostRetries, mostRuns, queue, queueName, type Job } from "./queue";

const leaseSeconds = 12;
const renewMilliseconds = 3000;
const reportMilliseconds = 400;

export class Stopped extends Error {}

/** Thrown by `progress` where somebody asked to pause: the job goes back and waits to be resumed. */
export class Paused extends Error {}

/** Thrown where another worker has taken the job over: this one has nothing to say any more. */
export class Lost extends Error {}

export type JobContext = {
  job: Job;
  /** Says how far the work is; throws Stopped where somebody asked to stop. Not to be called within `write`. */
  progress: (done: number, total: number, message?: string) => Promise<void>;
  /**
   * The one way a job writes: a transaction that is committed only while this claim of the job is the latest. A worker
   * that stalls and wakes up after another has taken over writes nothing.
   */
  write: <T>(
    work: (tx: Transaction, client: Parameters<Parameters<typeof transaction>[0]>[1]) => Promise<T>,
  ) => Promise<T>;
};

export type JobHandler = {
  run: (context: JobContext) => Promise<void>;
  /** Puts the job's subject back where it was; `stopped` tells a wish from a failure. */
  abandon: (context: Pick<JobContext, "job" | "write">, sentence: string, stopped: boolean) => Promise<void>;
  /**
   * Clears away what nobody waits for, once the job is done. A worker may be lost before: what is left then is cleared
   * after the next job of its kind.
   */
  afterwards?: () => Promise<void>;
};

const lease = sql`now() + make_interval(secs => ${leaseSeconds})`;

/**
 * Takes a job that waits, or whose worker let its lease lapse. Each claim has a number of its own, the fence: whoever
 * held the job before can tell that it does not any more. Null where there is nothing to take.
 */
async function claim(jobId: string, worker: string): Promise<Job | null> {
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

/** The claim that a running job works under. */
const claimed = (job: Job) => and(eq(jobs.id, job.id), eq(jobs.fence, job.fence), eq(jobs.status, "running"));

function fencedWrite(job: Job): JobContext["write"] {
  return (work) =>
    transaction(async (tx, client) => {
      const result = await work(tx, client);
      // Asked last and locked: between here and the commit nobody can take the job over.
      const own = await exists(tx, sql`select 1 from ${jobs} where ${claimed(job)} for share`);
      if (!own) throw new Lost();
      return result;
    });
}

/** Ends the claim in one of the ways a job can end or wait; false where it is another worker's by now. */
async function release(job: Job, status: Job["status"], message: string): Promise<boolean> {
  const ended = status !== "paused" && status !== "queued";
  return transaction(async (tx) => {
    const rows = await tx
      .update(jobs)
      .set({ status, leaseUntil: null, worker: null, ...(ended ? { message, endedAt: new Date() } : {}) })
      .where(claimed(job))
      .returning({ id: jobs.id });
    if (rows.length > 0) await announce({ collection: job.collectionId, topics: ["jobs"], revision: null }, tx);
    return rows.length > 0;
  });
}

const transientCodes = new Set([
  "ECONNREFUSED",
  "ECONNRESET",
  "EPIPE",
  "57P01",
  "57P03",
  "53300",
  "40001",
  "40P01",
  "25P03",
]);

/** True for what passes by itself: the database was away, or two transactions met. */
function isTransient(error: unknown): boolean {
  if (!(error instanceof Error) || error instanceof Failure) return false;
  const { code, cause, message } = error as Error & { code?: string };
  return (
    (code !== undefined && transientCodes.has(code)) ||
    /connection (terminated|timeout)/i.test(message) ||
    (cause !== undefined && isTransient(cause))
  );
}

/** Watches over one claim: keeps its lease, reports, and hears of wishes. */
class Watch {
  private stop: boolean;
  private pause: boolean;
  private lost = false;
  private reported = 0;
  private readonly renewing: NodeJS.Timeout;

  constructor(private readonly job: Job) {
    this.stop = job.stopRequested;
    this.pause = job.pauseRequested;
    this.renewing = setInterval(
      () => void this.update({ leaseUntil: lease }).catch(() => undefined),
      renewMilliseconds,
    );
  }

  private async update(set: Parameters<ReturnType<typeof jobUpdate>["set"]>[0]): Promise<void> {
    const [row] = await jobUpdate()
      .set(set)
      .where(claimed(this.job))
      .returning({ stop: jobs.stopRequested, pause: jobs.pauseRequested });
    if (!row) this.lost = true;
    else [this.stop, this.pause] = [row.stop, row.pause];
  }

  async progress(done: number, total: number, message?: string): Promise<void> {
    const now = Date.now();
    if (now - this.reported >= reportMilliseconds || done === total) {
      this.reported = now;
      await this.update({ done, total, ...(message !== undefined ? { message } : {}) });
      await announce({ collection: this.job.collectionId, topics: ["jobs"], revision: null });
    }
    if (this.lost) throw new Lost();
    if (this.stop) throw new Stopped();
    if (this.pause) throw new Paused();
  }

  end(): void {
    clearInterval(this.renewing);
  }
}

const jobUpdate = () => db().update(jobs);

const logged = (words: string, error: unknown) => console.error(`${new Date().toISOString()} ${words}:`, error);

/**
 * Claims a job and runs it to its end. Returns false where it was not to be had. Throws what is to be tried again later;
 * `retries` is how often that was so already.
 */
export async function runJob(
  jobId: string,
  worker: string,
  handlers: Record<JobKind, JobHandler>,
  retries = 0,
): Promise<boolean> {
  const job = await claim(jobId, worker);
  if (!job) return false;
  const handler = handlers[job.kind];
  const watch = new Watch(job);
  const write = fencedWrite(job);
  const progress: JobContext["progress"] = (done, total, message) => watch.progress(done, total, message);
  try {
    if (job.runs > mostRuns)
      throw new Failure(
        "worker-lost",
        `The worker was lost ${mostRuns} times while doing this; it is not tried again.`,
      );
    await progress(job.done, job.total);
    await handler.run({ job, progress, write });
    if (!(await release(job, "done", ""))) return true;
  } catch (error) {
    if (error instanceof Lost) return true;
    if (error instanceof Paused) {
      await release(job, "paused", "");
      return true;
    }
    if (isTransient(error) && retries < mostRetries) {
      logged(`job ${job.kind} ${job.subject} is tried again`, error);
      await release(job, "queued", "");
      throw error;
    }
    const stopped = error instanceof Stopped;
    const { message } = stopped ? { message: "Stopped." } : sentenceFor(error);
    if (!stopped && !(error instanceof Failure)) logged(`job ${job.kind} ${job.subject}`, error);
    try {
      await handler.abandon({ job, write }, message, stopped);
    } catch (problem) {
      if (problem instanceof Lost) return true;
      throw problem;
    }
    await release(job, stopped ? "stopped" : "failed", message);
    return true;
  } finally {
    watch.end();
  }
  await handler.afterwards?.().catch((error: unknown) => logged(`after job ${job.kind} ${job.subject}`, error));
  return true;
}

const orphanSchema = z.object({ id: z.uuid(), handed: z.uuid().nullable() });

/**
 * Jobs whose worker let the lease lapse are handed out again: the lapsing was pause enough. So is what waits and is not
 * in the queue any more, because a worker woke up late and called it finished there.
 */
async function returnOrphans(): Promise<void> {
  const boss = await queue();
  const orphans = await rowsOf(
    db(),
    orphanSchema,
    sql`select j.id, b.id as handed from ${jobs} j
      left join pgboss.job b on b.name = ${queueName} and b.state < 'completed' and b.data->>'jobId' = j.id::text
      where (j.status = 'running' and j.lease_until < now() and (b.id is null or b.state = 'active'))
        or (j.status = 'queued' and b.id is null and j.created_at < now() - interval '5 seconds')`,
  );
  for (const { id, handed } of orphans) {
    if (handed) await boss.cancel(queueName, handed);
    await handOutAgain(id);
  }
}

const dailyQueue = "daily";

/** What is done once a day: the bin is emptied of what lay there long enough. */
async function scheduleDaily(): Promise<string> {
  const boss = await queue();
  await boss.createQueue(dailyQueue);
  await boss.schedule(dailyQueue, "17 3 * * *");
  return boss.work(dailyQueue, async () => {
    const job = { kind: "housekeeping" as const, subject: 0, collectionId: null, title: "Emptying the bin" };
    await transaction((tx) => addJob({ id: "larder" }, job, tx));
  });
}

/**
 * Takes jobs from the queue, `atOnce` side by side, and gives back those whose worker was lost. Returns how to stop: what
 * runs is finished, nothing new is begun.
 */
export async function work(handlers: Record<JobKind, JobHandler>, atOnce: number): Promise<() => void> {
  tuneForManyPictures();
  // The heap doubles at most between two collections, so that long jobs do not fill the memory with what is garbage
  // already; less would have it collect all the time.
  setFlagsFromString("--heap-growing-percent=100");
  const worker = randomUUID();
  const boss = await queue();
  const slots: string[] = [];
  // A free worker asks at once when something waits, not when its next turn to ask has come.
  const wake = () => slots.forEach((slot) => boss.notifyWorker(slot));
  for (let slot = 0; slot < atOnce; slot++) {
    slots.push(
      await boss.work<{ jobId: string }>(
        queueName,
        { pollingIntervalSeconds: 0.5, batchSize: 1, includeMetadata: true },
        async ([given]) => {
          try {
            if (given) await runJob(given.data.jobId, worker, handlers, given.retryCount);
          } finally {
            wake();
          }
        },
      ),
    );
  }
  slots.push(await scheduleDaily());
  const deafen = onEvent(({ topics }) => topics.includes("queue") && wake());
  const returning = setInterval(() => void returnOrphans().catch(() => undefined), 3000);
  void returnOrphans().catch(() => undefined);
  return () => {
    deafen();
    clearInterval(returning);
    for (const id of slots) void boss.offWork({ id }).catch(() => undefined);
  };
}
