/** Runs one job: claims it, ends it well or badly, and says which. */
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { setTimeout as sleep } from "node:timers/promises";
import type { Transaction } from "../db/database";
import type { JobKind } from "../db/schema";
import { interruptible } from "../interruption";
import { claim, endJob, fencedWrite, release } from "./claim";
import type { JobContext, JobHandler } from "./handler";
import { Lost, Paused, Stopped } from "./job-ends";
import { mostRetries, mostRuns } from "./queue";
import { isTransient } from "./transient";
import { Watch } from "./watch";

/** Milliseconds until a job that cannot be put back yet is asked again. */
const untilAskedAgain = 50;

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
    const last = await interruptible(watch.signal, () => handler.run({ job, progress, write }));
    await endJob(job, "done", "", async (tx) => void (await last?.(tx)));
  } catch (error) {
    if (error instanceof Lost) return true;
    if (error instanceof Paused) {
      await release(job, "paused");
      return true;
    }
    if (isTransient(error) && retries < mostRetries) {
      logged(`job ${job.kind} ${job.subject} is tried again`, error);
      await release(job, "queued");
      throw error;
    }
    const stopped = error instanceof Stopped;
    const { message } = stopped ? { message: "Stopped." } : sentenceFor(error);
    if (!stopped && !(error instanceof Failure)) logged(`job ${job.kind} ${job.subject}`, error);
    try {
      await handler.takeBack?.({ job, write }, message, stopped);
      const putBack = async (tx: Transaction) => handler.putBack?.(tx, job, message, stopped);
      while (!(await endJob(job, stopped ? "stopped" : "failed", message, putBack))) await sleep(untilAskedAgain);
    } catch (problem) {
      if (!(problem instanceof Lost)) throw problem;
    }
    return true;
  } finally {
    watch.end();
  }
  await handler.afterwards?.().catch((error: unknown) => logged(`after job ${job.kind} ${job.subject}`, error));
  return true;
}
