import { eq } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db } from "../db/database";
import { jobs } from "../db/schema";

const ended = new Set(["done", "failed", "stopped"]);

/** Waits until a job has ended, one way or another, and returns it. Throws where there is no such job. */
export async function untilEnded(jobId: string): Promise<typeof jobs.$inferSelect> {
  for (;;) {
    const [job] = await db().select().from(jobs).where(eq(jobs.id, jobId));
    if (!job) throw new Error("The job is gone.");
    if (ended.has(job.status)) return job;
    await sleep(50);
  }
}

/** Waits until a job is done; throws with its sentence where it ended otherwise. */
export async function untilDone(jobId: string): Promise<void> {
  const job = await untilEnded(jobId);
  if (job.status !== "done") throw new Error(`${job.title} ended: ${job.message}`);
}
