/** The jobs that people see, and what they may ask of them. */
import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import { db } from "../db/database";
import { jobs } from "../db/schema";
import { recentJobs, requestPause, requestStop, resumeJob, type Job } from "../jobs/queue";
import { onEvent, type LarderEvent } from "../jobs/events";
import { allow, may } from "./access";
import type { Actor } from "./actor";

/** Jobs that run, wait or are paused, and what has just ended, of collections that the actor may see. */
export async function jobsOf(actor: Actor): Promise<Job[]> {
  return (await recentJobs()).filter(({ collectionId }) => may(actor, "see", collectionId));
}

export async function jobOf(actor: Actor, id: string): Promise<Job> {
  await allow(actor, "see", { job: id });
  const [job] = await db().select().from(jobs).where(eq(jobs.id, id));
  if (!job) throw new Failure("job-missing", "There is no such job any more.", 404);
  return job;
}

export async function stopJob(actor: Actor, id: string): Promise<void> {
  await allow(actor, "label", { job: id });
  await requestStop(id);
}

export async function pauseJob(actor: Actor, id: string): Promise<void> {
  await allow(actor, "label", { job: id });
  await requestPause(id);
}

export async function goOnWithJob(actor: Actor, id: string): Promise<void> {
  await allow(actor, "label", { job: id });
  await resumeJob(id);
}

/** Calls back for what changes in collections that the actor may see, until the returned function is called. */
export function changesFor(actor: Actor, listener: (event: LarderEvent) => void): () => void {
  return onEvent((event) => {
    if (event.collection === null || may(actor, "see", event.collection)) listener(event);
  });
}
