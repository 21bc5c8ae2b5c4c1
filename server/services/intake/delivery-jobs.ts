import { and, eq, inArray, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db, type Database, type Transaction } from "../../db/database";
import { exists } from "../../db/query";
import { jobs, type JobKind } from "../../db/schema";
import { requestStop } from "../../jobs/queue";

const kinds: JobKind[] = ["read-delivery", "look-into", "take-in"];

/** Whether a job of this kind works on the delivery now, with its worker alive. */
async function jobRuns(deliveryId: number, kind: JobKind, on: Database): Promise<boolean> {
  return exists(
    on,
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
  for (const kind of kinds) while (await jobRuns(id, kind, db())) await sleep(50);
}

/**
 * Ends what waits to look into a delivery that is being taken in, and tells whether none of it runs any more: what runs
 * ends by itself when it sees that the pictures are being taken in. Afterwards none can begin in this transaction's time.
 */
export async function lookingRests(deliveryId: number, tx: Transaction): Promise<boolean> {
  const kind: JobKind = "look-into";
  await tx
    .update(jobs)
    .set({ status: "done", message: "", endedAt: new Date() })
    .where(and(eq(jobs.kind, kind), eq(jobs.subject, deliveryId), inArray(jobs.status, ["queued", "paused"])));
  return !(await jobRuns(deliveryId, kind, tx));
}
