/** After reading: every picture is looked into, so that the sheet can say which are in stock already, which are nearly the same, and what is wrong with which. */
import { nearCopies, type Hashed } from "@larder/core/checks/near-copies";
import { eq, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { deliveries, type LookedInto } from "../../db/schema";
import { announce } from "../../jobs/events";
import type { JobContext, JobHandler } from "../../jobs/run";
import { stageAll } from "./staging";

/**
 * Bits of 256 by which two pictures may differ and still be nearly the same. On the demo's trays, two shots of one tray
 * differ in 2 to 26, any other two pictures in 78 or more, but for empty racks, which are nearly the same indeed.
 */
export const nearCopyBits = 28;

async function statusOf(deliveryId: number): Promise<string | null> {
  const [row] = await db().select({ status: deliveries.status }).from(deliveries).where(eq(deliveries.id, deliveryId));
  return row?.status ?? null;
}

/** Pictures of a delivery that are nearly the same as another of it, or as one in stock; the very same bytes do not count. */
export async function countNearCopies(deliveryId: number, collectionId: number): Promise<number> {
  const incoming = await db().execute<Hashed>(sql`select distinct on (sha256) sha256 as key, near_hash as hash from delivery_items where delivery_id = ${deliveryId} and near_hash is not null and not left_out order by sha256, ordinal`);
  const stock = await db().execute<Hashed>(sql`select sha256 as key, near_hash as hash from images where collection_id = ${collectionId} and near_hash is not null and delivery_id <> ${deliveryId}`);
  const there = new Set(stock.rows.map(({ key }) => key));
  return nearCopies(incoming.rows.filter(({ key }) => !there.has(key)), stock.rows, nearCopyBits).size;
}

async function sumUp(deliveryId: number, collectionId: number): Promise<LookedInto> {
  const { rows } = await db().execute<{ from: string | null; to: string | null; placed: number }>(sql`
    select to_char(min(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as from, to_char(max(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as to, count(latitude)::int as placed from delivery_items where delivery_id = ${deliveryId}`);
  return { nearCopies: await countNearCopies(deliveryId, collectionId), takenFrom: rows[0]?.from ?? null, takenTo: rows[0]?.to ?? null, placed: rows[0]?.placed ?? 0 };
}

async function look({ job, progress }: JobContext): Promise<void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (delivery?.status !== "read") return;
  // Taking in does the same work: it goes on from what is done here.
  const whole = await stageAll(delivery, (done, total) => progress(done, total + 1, "Looking into the pictures"), async () => (await statusOf(delivery.id)) === "read");
  if (!whole) return;
  const looked = await sumUp(delivery.id, delivery.collectionId);
  await db().update(deliveries).set({ looked }).where(sql`${deliveries.id} = ${delivery.id} and ${deliveries.status} = 'read'`);
  await announce({ kind: "collection", collection: delivery.collectionId });
}

export const lookInto: JobHandler = {
  run: look,
  // What was not looked into is when it is taken in; nothing has to be put back.
  async abandon(job, sentence, stopped) {
    if (!stopped) await db().update(deliveries).set({ failure: sentence }).where(sql`${deliveries.id} = ${job.subject} and ${deliveries.status} = 'read'`);
  },
};
