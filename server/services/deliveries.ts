/** Deliveries: what is known of each, what a person decides about it, taking it in and taking it back. */
import { allChoices, changedChoicesSchema, readingChoices } from "@larder/core/intake/choices";
import { deliveryFactsSchema } from "@larder/core/intake/facts";
import { Failure } from "@larder/core/model/failure";
import { and, desc, eq, inArray, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { z } from "zod";
import { db } from "../db/database";
import { deliveries, deliveryItems, jobs, type Delivery, type DeliveryStatus } from "../db/schema";
import { announce } from "../jobs/events";
import { addJob, handOut, requestStop } from "../jobs/queue";
import { mustEdit, type Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { choicesOf } from "./intake/open-delivery";
import { removeSentFiles } from "./intake/sent-files";
import { takeBack, undoWord, type UndoWord } from "./intake/undo";

export const deliveryName = z.string().trim().min(1, "Give it a name.").max(120, "A name has 120 characters at most.");

export async function deliveryRow(id: number): Promise<Delivery> {
  const [row] = await db().select().from(deliveries).where(eq(deliveries.id, id));
  if (!row)
    throw new Failure("delivery-missing", `There is no delivery ${id}. It may have been undone or put aside.`, 404);
  return row;
}

export async function deliveriesOf(_actor: Actor, collectionId: number): Promise<Delivery[]> {
  return db()
    .select()
    .from(deliveries)
    .where(eq(deliveries.collectionId, collectionId))
    .orderBy(desc(deliveries.createdAt), desc(deliveries.id));
}

export const deliveryChangeSchema = z.object({
  name: deliveryName.optional(),
  facts: deliveryFactsSchema.optional(),
  choices: changedChoicesSchema.optional(),
});

/**
 * Changes a delivery's name and facts at any time, and what is decided about it until it is taken in. Choices that
 * change what is read start reading anew; then the job that does is returned.
 */
export async function changeDelivery(
  actor: Actor,
  id: number,
  input: z.input<typeof deliveryChangeSchema>,
): Promise<{ job: string | null }> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  const { name, facts, choices } = deliveryChangeSchema.parse(input);
  const open: DeliveryStatus[] = ["arriving", "read", "failed"];
  if (choices && !open.includes(delivery.status))
    throw new Failure(
      "delivery-busy",
      "What to do with a delivery can be changed once it is read and before it is taken in.",
      409,
    );
  const before = choicesOf(delivery);
  const after = allChoices({ ...before, ...choices });
  await db()
    .update(deliveries)
    .set({
      ...(name !== undefined ? { name } : {}),
      ...(facts ? { facts } : {}),
      ...(choices ? { choices: after } : {}),
    })
    .where(eq(deliveries.id, id));
  await announce({ kind: "collection", collection: delivery.collectionId });
  const anew = delivery.status !== "arriving" && readingChoices.some((key) => after[key] !== before[key]);
  return anew ? readAgain(actor, id) : { job: null };
}

/** Reads a delivery again: otherwise, with more files, or after reading failed or was stopped. */
export async function readAgain(actor: Actor, id: number): Promise<{ job: string }> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  if (!["arriving", "failed", "read"].includes(delivery.status))
    throw new Failure("delivery-busy", "This delivery is being worked on, or is taken in already.", 409);
  await stopJobsOf(id);
  const job = await db().transaction(async (tx) => {
    await tx.update(deliveries).set({ status: "waiting", failure: null, looked: null }).where(eq(deliveries.id, id));
    return addJob(
      actor,
      { kind: "read-delivery", subject: id, collectionId: delivery.collectionId, title: `Reading ${delivery.name}` },
      tx,
    );
  });
  await handOut(job);
  await announce({ kind: "collection", collection: delivery.collectionId });
  return { job };
}

/** Starts taking in. Asking twice is harmless: the second time nothing is started. */
export async function takeInDelivery(actor: Actor, id: number): Promise<{ job: string | null }> {
  mustEdit(actor);
  const started = await db().transaction(async (tx) => {
    const [delivery] = await tx
      .update(deliveries)
      .set({ status: "taking", failure: null })
      .where(and(eq(deliveries.id, id), eq(deliveries.status, "read")))
      .returning();
    return delivery
      ? {
          delivery,
          job: await addJob(
            actor,
            { kind: "take-in", subject: id, collectionId: delivery.collectionId, title: `Taking in ${delivery.name}` },
            tx,
          ),
        }
      : null;
  });
  if (!started) {
    const now = await deliveryRow(id);
    if (now.status === "taking" || now.status === "taken") return { job: null };
    throw new Failure("delivery-not-read", "This delivery has not been read yet.", 409);
  }
  await handOut(started.job);
  await announce({ kind: "collection", collection: started.delivery.collectionId });
  return { job: started.job };
}

/** Leaves images out of a delivery, or takes them back, by their place in it. */
export async function leaveOut(
  actor: Actor,
  id: number,
  input: { ordinals: number[]; leftOut: boolean },
): Promise<void> {
  mustEdit(actor);
  if ((await deliveryRow(id)).status !== "read")
    throw new Failure(
      "delivery-busy",
      "Images can be left out once the delivery is read and before it is taken in.",
      409,
    );
  await db()
    .update(deliveryItems)
    .set({ leftOut: input.leftOut })
    .where(and(eq(deliveryItems.deliveryId, id), inArray(deliveryItems.ordinal, input.ordinals)));
}

/** Asks the jobs of a delivery to stop and waits until none runs; a worker that was lost is not waited for. */
async function stopJobsOf(id: number): Promise<void> {
  const live = await db()
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        inArray(jobs.kind, ["read-delivery", "look-into", "take-in"]),
        eq(jobs.subject, id),
        inArray(jobs.status, ["queued", "running", "paused"]),
      ),
    );
  for (const job of live) await requestStop(job.id);
  for (;;) {
    const { rows } = await db().execute(
      sql`select 1 from jobs where kind in ('read-delivery', 'look-into', 'take-in') and subject = ${id} and status = 'running' and lease_until > now() limit 1`,
    );
    if (rows.length === 0) return;
    await sleep(50);
  }
}

/** What undoing would do, to be said before it is done. */
export async function beforeUndo(_actor: Actor, id: number): Promise<UndoWord> {
  return undoWord(await deliveryRow(id));
}

/**
 * Removes a delivery with all it brought: images, objects, and the classes that came with it and that nothing else
 * uses;
 * labels it changed become what they were. Versions built from it keep the bytes they need. A delivery not yet taken
 * in is put aside.
 */
export async function undoDelivery(actor: Actor, id: number): Promise<{ images: number }> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  if (delivery.status === "taking" || delivery.status === "reading") {
    const live = await db()
      .select({ id: jobs.id })
      .from(jobs)
      .where(
        and(
          inArray(jobs.kind, ["read-delivery", "take-in"]),
          eq(jobs.subject, id),
          inArray(jobs.status, ["queued", "running", "paused"]),
        ),
      );
    for (const job of live) await requestStop(job.id);
    throw new Failure("delivery-busy", "The work on this delivery is being stopped. Undo it when it has stopped.", 409);
  }
  await stopJobsOf(id);
  const images = await db().transaction((tx) => takeBack(tx, delivery));
  await removeSentFiles(delivery.origin);
  await removeUnusedBlobs();
  await announce({ kind: "collection", collection: delivery.collectionId });
  return { images };
}
