import { and, eq, inArray, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db } from "../../db/database";
import { exists } from "../../db/query";
import { jobs, type JobKind } from "../../db/schema";
import { requestStop } from "../../jobs/queue";

const kinds: JobKind[] = ["read-delivery", "look-into", "take-in"];

/** Whether a job of this kind works on the delivery now, with its worker alive. */
export async function jobRuns(deliveryId: number, kind: JobKind): Promise<boolean> {
  return exists(
    db(),
    sql`select 1 from ${jobs} where kind = ${kind} and subject = ${deliveryId} and status = 'running' and lease_until > now() limit 1`,
  );
}

/** Asks the jobs of a delivery to stop and waits until none is left; a worker that was lost is not waited for. */
export async function untilDeliveryRests(id: number): Promise<void> {
  const live = await db()
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(inArray(jobs.kind, kinds), eq(jobs.subject, id), inArray(jobs.status, ["queued", "running", "paused"])));
  for (const job of live) await requestStop(job.id);
  for (const kind of kinds) while (await jobRuns(id, kind)) await sleep(50);
}
