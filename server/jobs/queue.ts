/** Long work: a row a job, handed out by pg-boss, held by a lease that a living worker renews. */
import { Failure } from "@larder/core/model/failure";
import { and, eq, inArray, sql } from "drizzle-orm";
import PgBoss from "pg-boss";
import { databaseUrl, db, type Database, type Transaction } from "../db/database";
import { jobs, type JobKind } from "../db/schema";
import type { Actor } from "../services/actor";
import { announce } from "./events";

export const queueName = "work";
const held = globalThis as { larderBoss?: Promise<PgBoss> };

/** The queue's client, started once a process. */
export function queue(): Promise<PgBoss> {
  held.larderBoss ??= (async () => {
    const boss = new PgBoss({ connectionString: databaseUrl(), max: 4 });
    boss.on("error", () => undefined);
    await boss.start();
    await boss.createQueue(queueName);
    return boss;
  })();
  return held.larderBoss;
}

export async function closeQueue(): Promise<void> {
  const boss = await held.larderBoss;
  delete held.larderBoss;
  await boss?.stop({ graceful: false, wait: true });
}

export type Job = typeof jobs.$inferSelect;
export type NewJob = { kind: JobKind; subject: number; collectionId: number | null; title: string };

/**
 * Puts a job into its table, in the caller's transaction where one is given; `handOut` must follow once that is
 * committed.
 */
export async function addJob(actor: Actor, job: NewJob, on: Database | Transaction = db()): Promise<string> {
  const [row] = await on
    .insert(jobs)
    .values({ ...job, createdBy: actor.id })
    .returning({ id: jobs.id });
  if (!row) throw new Failure("unexpected", "The job could not be written down.");
  return row.id;
}

/** Tells the workers of a job that waits. Telling them twice is harmless: only one can claim it. */
export async function handOut(jobId: string): Promise<void> {
  await (await queue()).send(queueName, { jobId }, { expireInHours: 23, retryLimit: 2 });
  await announce({ kind: "job", collection: null });
}

/**
 * Asks for a stop. A job that has not begun ends at once, a running one at its next step; a paused one is woken to put
 * things back.
 */
export async function requestStop(jobId: string): Promise<void> {
  const paused = await db()
    .update(jobs)
    .set({ status: "queued", stopRequested: true, pauseRequested: false })
    .where(and(eq(jobs.id, jobId), eq(jobs.status, "paused")))
    .returning({ id: jobs.id });
  if (paused.length > 0) return handOut(jobId);
  await db()
    .update(jobs)
    .set({ stopRequested: true })
    .where(and(eq(jobs.id, jobId), inArray(jobs.status, ["queued", "running"])));
  await announce({ kind: "job", collection: null });
}

/**
 * Asks for a pause: a job that has not begun is held back, a running one ends at its next step and keeps what it did.
 */
export async function requestPause(jobId: string): Promise<void> {
  await db()
    .update(jobs)
    .set({
      pauseRequested: true,
      status: sql`case when ${jobs.status} = 'queued' then 'paused' else ${jobs.status} end`,
    })
    .where(and(eq(jobs.id, jobId), inArray(jobs.status, ["queued", "running"])));
  await announce({ kind: "job", collection: null });
}

/** Lets a paused job go on from where it was. */
export async function resumeJob(jobId: string): Promise<void> {
  const resumed = await db()
    .update(jobs)
    .set({
      status: sql`case when ${jobs.status} = 'paused' then 'queued' else ${jobs.status} end`,
      pauseRequested: false,
    })
    .where(and(eq(jobs.id, jobId), inArray(jobs.status, ["paused", "running"])))
    .returning({ status: jobs.status });
  if (resumed[0]?.status === "queued") await handOut(jobId);
  await announce({ kind: "job", collection: null });
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
