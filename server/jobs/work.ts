/** A worker's side of the queue: takes jobs, gives back those whose worker was lost, and minds the day's round. */
import { sql } from "drizzle-orm";
import { randomUUID } from "node:crypto";
import { setFlagsFromString } from "node:v8";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { jobs, type JobKind } from "../db/schema";
import { useRuntimeChecksum } from "../files/runtime-checksum";
import { tuneForManyPictures } from "../pixels/tuning";
import { onEvent } from "./events";
import type { JobHandler } from "./handler";
import { addJob, dailyQueue, handOutAgain, queue, queueNames, type QueueName } from "./queue";
import { runJob } from "./run";

const orphanSchema = z.object({ id: z.uuid(), handed: z.uuid().nullable(), queue: z.string().nullable() });

/**
 * Jobs whose worker let the lease lapse are handed out again: the lapsing was pause enough. So is what waits and is not
 * in the queue any more, because a worker woke up late and called it finished there, and what a worker took from the queue
 * and fell before it could claim it.
 */
async function returnOrphans(): Promise<void> {
  const boss = await queue();
  const orphans = await rowsOf(
    db(),
    orphanSchema,
    sql`select j.id, b.id as handed, b.name as queue from ${jobs} j
      left join pgboss.job b on b.name = any(${sql.param(queueNames)}::text[]) and b.state < 'completed' and b.data->>'jobId' = j.id::text
      where (j.status = 'running' and j.lease_until < now() and (b.id is null or b.state = 'active'))
        or (j.status = 'queued' and b.id is null and j.created_at < now() - interval '5 seconds')
        or (j.status = 'queued' and b.state = 'active' and b.started_on < now() - interval '15 seconds')`,
  );
  for (const { id, handed, queue: name } of orphans) {
    if (handed && name) await boss.cancel(name, handed);
    await handOutAgain(id);
  }
}

/** What is done once a day: the bin is emptied of what lay there long enough. */
async function scheduleDaily(): Promise<string> {
  const boss = await queue();
  await boss.schedule(dailyQueue, "17 3 * * *");
  return boss.work(dailyQueue, async () => {
    const job = { kind: "housekeeping" as const, subject: 0, collectionId: null, title: "Emptying the bin" };
    await transaction((tx) => addJob({ id: "larder" }, job, tx));
  });
}

/**
 * Takes jobs from the queue, `atOnce` side by side and one of the background beside them, and gives back those whose
 * worker was lost. Returns how to stop: what runs is finished, nothing new is begun.
 */
export async function work(handlers: Record<JobKind, JobHandler>, atOnce: number): Promise<() => void> {
  tuneForManyPictures();
  useRuntimeChecksum();
  // The heap doubles at most between two collections, so that long jobs do not fill the memory with what is garbage
  // already; less would have it collect all the time.
  setFlagsFromString("--heap-growing-percent=100");
  const worker = randomUUID();
  const boss = await queue();
  const slots: string[] = [];
  // A free worker asks at once when something waits, not when its next turn to ask has come.
  const wake = () => slots.forEach((slot) => boss.notifyWorker(slot));
  const take = async (name: QueueName) => {
    slots.push(
      await boss.work<{ jobId: string }>(
        name,
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
  };
  for (let slot = 0; slot < atOnce; slot++) await take("jobs");
  await take("background");
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
