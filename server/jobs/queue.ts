/**
 * Long work. What a job is and how far it came stands in the table `jobs`; whose turn it is, when it is tried again and
 * that no two of a kind are handed out for one subject is pg-boss's.
 */
import { and, eq, inArray, sql, type SQL } from "drizzle-orm";
import PgBoss from "pg-boss";
import { databaseUrl, db, transaction, type Transaction } from "../db/database";
import { numberOf } from "../db/query";
import { jobs, type JobKind } from "../db/schema";
import { statement } from "../db/statement";
import type { Actor } from "../services/actor";
import { announce } from "./events";

const foreground = "jobs";
const background = "background";
/** All queues: what people wait for, and what is done beside it in a turn of its own, so that it never holds one up. */
export const queueNames = [foreground, background] as const;
export type QueueName = (typeof queueNames)[number];
export const dailyQueue = "daily";
const inBackground = new Set<JobKind>(["learn", "compare-looks", "answer-part", "housekeeping"]);
export const queueOf = (kind: JobKind): QueueName => (inBackground.has(kind) ? background : foreground);

/** How often a job is begun at most: one that takes its worker down this often is given up. */
export const mostRuns = 30;
/** What went wrong without anybody's fault is tried again this often, after pauses that grow. */
export const mostRetries = 3;
const shared = globalThis as { larderBoss?: Promise<PgBoss> };

/** The queue's client, started once a process. */
export function queue(): Promise<PgBoss> {
  shared.larderBoss ??= startQueue().catch((error: unknown) => {
    // The next one who asks tries again.
    delete shared.larderBoss;
    throw error;
  });
  return shared.larderBoss;
}

async function startQueue(): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl(), max: 4 });
  boss.on("error", () => undefined);
  // One process after the other: two that make their tables and queues at once would wait for each other.
  await transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('larder queues'))`);
    await boss.start();
    // No two jobs of one kind and subject wait or run at once.
    for (const name of queueNames) await boss.createQueue(name, { name, policy: "stately" });
    await boss.createQueue(dailyQueue);
  });
  return boss;
}

export async function closeQueue(): Promise<void> {
  const boss = await shared.larderBoss;
  delete shared.larderBoss;
  await boss?.stop({ graceful: false, wait: true });
}

export type Job = typeof jobs.$inferSelect;
export type NewJob = { kind: JobKind; subject: number; collectionId: number | null; title: string };

/** What runs its queries in a transaction, as pg-boss asks for them. */
const within = (tx: Transaction) => ({
  executeSql: async (text: string, values: unknown[] = []) => ({
    rows: (await tx.execute(statement(text, values))).rows,
  }),
});

const alive = ["queued", "running", "paused"] as const;

const nobodyWaitsFor = new Set<JobKind>(["look-into", ...inBackground]);

/**
 * Higher goes first: what people wait for before looking into pictures, and of one collection each further job a little
 * later, so that a collection with many does not hold up another.
 */
async function priorityOf(tx: Transaction, job: Pick<Job, "id" | "kind" | "collectionId">): Promise<number> {
  const before = await numberOf(
    tx,
    sql`select count(*) as n from ${jobs} where ${jobs.collectionId} is not distinct from ${job.collectionId}
      and ${jobs.status} in ('queued', 'running') and ${jobs.id} <> ${job.id}`,
  );
  return (nobodyWaitsFor.has(job.kind) ? 0 : 1000) - Math.min(before, 900);
}

async function handOut(tx: Transaction, job: Job): Promise<void> {
  await (
    await queue()
  ).send(
    queueOf(job.kind),
    { jobId: job.id },
    {
      priority: await priorityOf(tx, job),
      singletonKey: `${job.kind} ${job.subject}`,
      retryLimit: mostRetries,
      retryDelay: 1,
      retryBackoff: true,
      expireInHours: 23,
      db: within(tx),
    },
  );
  await announce({ collection: job.collectionId, topics: ["jobs", "queue"], revision: null }, tx);
}

/**
 * Puts a job up in the caller's transaction; it is handed out when that is committed. Where one of this kind waits or
 * runs for the subject already, that one's id is returned; it does not end before the caller has committed.
 */
export async function addJob(actor: Pick<Actor, "id">, job: NewJob, tx: Transaction): Promise<string> {
  for (;;) {
    const [row] = await tx
      .insert(jobs)
      .values({ ...job, createdBy: actor.id })
      .onConflictDoNothing()
      .returning();
    if (row) {
      await handOut(tx, row);
      return row.id;
    }
    const [there] = await tx
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.kind, job.kind), eq(jobs.subject, job.subject), inArray(jobs.status, alive)))
      .for("key share");
    // Where it has ended meanwhile, there is room for a new one.
    if (there) return there.id;
  }
}

/** Hands a job out again that the queue has lost sight of. */
export async function handOutAgain(jobId: string): Promise<void> {
  await transaction(async (tx) => {
    const [job] = await tx.select().from(jobs).where(eq(jobs.id, jobId));
    if (job) await handOut(tx, job);
  });
}

/**
 * Changes a job that has not ended, in one statement: what two people wish at once happens one after the other. One that
 * waits afterwards is handed out; being in the queue twice is harmless.
 */
async function wish(jobId: string, to: Record<string, unknown>, unless?: SQL): Promise<void> {
  await transaction(async (tx) => {
    const [row] = await tx
      .update(jobs)
      .set(to)
      .where(and(eq(jobs.id, jobId), inArray(jobs.status, alive), unless ? sql`not (${unless})` : undefined))
      .returning();
    if (row?.status === "queued") await handOut(tx, row);
    else if (row) await announce({ collection: row.collectionId, topics: ["jobs"], revision: null }, tx);
  });
}

const awake = sql`case ${jobs.status} when 'paused' then 'queued' else ${jobs.status} end`;
const asleep = sql`case ${jobs.status} when 'queued' then 'paused' else ${jobs.status} end`;

/** Asks for a stop: a running job ends at its next step; one that waits or is paused is begun to put things back. */
export async function requestStop(jobId: string): Promise<void> {
  await wish(jobId, { stopRequested: true, pauseRequested: false, status: awake });
}

/** Asks for a pause: a job that has not begun is paused at once, a running one at its next step. A stop goes first. */
export async function requestPause(jobId: string): Promise<void> {
  await wish(jobId, { pauseRequested: true, status: asleep }, sql`${jobs.stopRequested}`);
}

/** Lets a paused job go on from where it was; one that was only asked to pause goes on as if it had not been. */
export async function resumeJob(jobId: string): Promise<void> {
  await wish(jobId, { pauseRequested: false, status: awake });
}

/** Jobs that run, wait or are paused, and what ended in the last half minute, newest first. */
export async function recentJobs(): Promise<Job[]> {
  return db()
    .select()
    .from(jobs)
    .where(sql`${jobs.status} in ('queued', 'running', 'paused') or ${jobs.endedAt} > now() - interval '30 seconds'`)
    .orderBy(sql`${jobs.createdAt} desc`)
    .limit(50);
}
