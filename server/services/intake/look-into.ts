/**
 * After reading: every picture is looked into, so that the sheet can say which are in stock already, which are nearly
 * the same, and what is wrong with which.
 */
import { eq, sql } from "drizzle-orm";
import { db, type Database, type Transaction } from "../../db/database";
import { deliveries, type Delivery, type LookedInto } from "../../db/schema";
import { announce } from "../../jobs/events";
import { addJob } from "../../jobs/queue";
import type { JobContext, JobHandler } from "../../jobs/run";
import { localActor } from "../actor";
import { findNearCopies, noteNearCopies } from "./near-copies";
import { stageAll } from "./staging";

/** The job that looks into a delivery's pictures; it waits to be handed out. */
export function addLookInto(
  delivery: Pick<Delivery, "id" | "collectionId" | "name">,
  on: Database | Transaction = db(),
): Promise<string> {
  return addJob(
    localActor,
    {
      kind: "look-into",
      subject: delivery.id,
      collectionId: delivery.collectionId,
      title: `Looking into ${delivery.name}`,
    },
    on,
  );
}

async function statusOf(deliveryId: number): Promise<string | null> {
  const [row] = await db().select({ status: deliveries.status }).from(deliveries).where(eq(deliveries.id, deliveryId));
  return row?.status ?? null;
}

async function sumUp(deliveryId: number, collectionId: number): Promise<LookedInto> {
  const { rows } = await db().execute<{ from: string | null; to: string | null; placed: number }>(sql`
    select to_char(min(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as from, to_char(max(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as to, count(latitude)::int as placed from delivery_items where delivery_id = ${deliveryId}`);
  await noteNearCopies(deliveryId, await findNearCopies(deliveryId, collectionId));
  return { takenFrom: rows[0]?.from ?? null, takenTo: rows[0]?.to ?? null, placed: rows[0]?.placed ?? 0 };
}

async function look({ job, progress }: JobContext): Promise<void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (delivery?.status !== "read") return;
  // Taking in does the same work: it goes on from what is done here.
  const whole = await stageAll(
    delivery,
    (done, total) => progress(done, total + 1, "Looking into the pictures"),
    async () => (await statusOf(delivery.id)) === "read",
  );
  if (!whole) return;
  const looked = await sumUp(delivery.id, delivery.collectionId);
  await db()
    .update(deliveries)
    .set({ looked })
    .where(sql`${deliveries.id} = ${delivery.id} and ${deliveries.status} = 'read'`);
  await announce({ kind: "collection", collection: delivery.collectionId });
}

export const lookInto: JobHandler = {
  run: look,
  // What was not looked into is when it is taken in; nothing has to be put back.
  async abandon(job, sentence, stopped) {
    if (!stopped)
      await db()
        .update(deliveries)
        .set({ failure: sentence })
        .where(sql`${deliveries.id} = ${job.subject} and ${deliveries.status} = 'read'`);
  },
};
