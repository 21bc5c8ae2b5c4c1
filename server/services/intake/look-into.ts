/**
 * After reading: every picture is looked into, so that the sheet can say which are in stock already, which are nearly
 * the same, and what is wrong with which.
 */
import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db, type Transaction } from "../../db/database";
import { deliveries, type Delivery, type LookedInto } from "../../db/schema";
import { changed } from "../../jobs/events";
import { rowOf } from "../../db/query";
import { addJob } from "../../jobs/queue";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import { larderActor } from "../actor";
import { removeUnusedBlobs } from "../blob-sweep";
import { findNearCopies, noteNearCopies } from "./near-copies";
import { stageAll } from "./staging";

/** The job that looks into a delivery's pictures. */
export function addLookInto(
  { id, collectionId, name }: Pick<Delivery, "id" | "collectionId" | "name">,
  tx: Transaction,
): Promise<string> {
  return addJob(larderActor, { kind: "look-into", subject: id, collectionId, title: `Looking into ${name}` }, tx);
}

async function statusOf(deliveryId: number): Promise<string | null> {
  const [row] = await db().select({ status: deliveries.status }).from(deliveries).where(eq(deliveries.id, deliveryId));
  return row?.status ?? null;
}

const sumsSchema = z.object({ from: z.string().nullable(), to: z.string().nullable(), placed: z.number() });

async function sumUp(deliveryId: number): Promise<LookedInto> {
  const sums = await rowOf(
    db(),
    sumsSchema,
    sql`select to_char(min(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as from, to_char(max(taken_at), 'YYYY-MM-DD"T"HH24:MI:SS') as to, count(latitude)::int as placed
      from delivery_items where delivery_id = ${deliveryId}`,
  );
  return { takenFrom: sums?.from ?? null, takenTo: sums?.to ?? null, placed: sums?.placed ?? 0 };
}

async function look({ job, progress, write }: JobContext): Promise<Ending | void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (delivery?.status !== "read") return;
  // Taking in does the same work: it goes on from what is done here.
  const whole = await stageAll(
    delivery,
    write,
    (done, total) => progress(done, total + 1, "Looking into the pictures"),
    async () => (await statusOf(delivery.id)) === "read",
  );
  if (!whole) return;
  const pairs = await findNearCopies(delivery.id, delivery.collectionId);
  const looked = await sumUp(delivery.id);
  return async (tx) => {
    await changed(tx, delivery.collectionId, "deliveries");
    await noteNearCopies(tx, delivery.id, pairs);
    await tx
      .update(deliveries)
      .set({ looked })
      .where(and(eq(deliveries.id, delivery.id), eq(deliveries.status, "read")));
  };
}

export const lookInto: JobHandler = {
  run: look,
  async afterwards() {
    await removeUnusedBlobs();
  },
  // What was not looked into is when it is taken in; nothing has to be put back.
  async putBack(tx, job, sentence, stopped) {
    if (stopped) return;
    if (job.collectionId !== null) await changed(tx, job.collectionId, "deliveries");
    await tx
      .update(deliveries)
      .set({ failure: sentence })
      .where(and(eq(deliveries.id, job.subject), eq(deliveries.status, "read")));
  },
};
