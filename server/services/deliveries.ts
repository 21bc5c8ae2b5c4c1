/** Deliveries: what is known of each, what a person decides about it, taking it in and taking it back. */
import { allChoices, changedChoicesSchema, readingChoices } from "@larder/core/intake/choices";
import { deliveryFactsSchema } from "@larder/core/intake/facts";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { Failure } from "@larder/core/model/failure";
import { and, between, desc, eq, inArray, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction, type Transaction } from "../db/database";
import { numberList } from "../db/array-literal";
import { deliveries, deliveryItems, type Delivery, type DeliveryStatus } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { allow } from "./access";
import { startUndo, type ActOutcome } from "./acts";
import type { Actor } from "./actor";
import { shownCondition, shownSchema } from "./intake/shown-items";
import { untilDeliveryRests } from "./intake/delivery-jobs";
import { choicesOf } from "./intake/open-delivery";
import { takeInAct, undoForecast, type UndoForecast } from "./intake/undo-forecast";

export const deliveryName = z.string().trim().min(1, "Give it a name.").max(120, "A name has 120 characters at most.");

/** A delivery. Whoever calls it has asked `allow`. */
export async function deliveryRow(id: number): Promise<Delivery> {
  const [row] = await db().select().from(deliveries).where(eq(deliveries.id, id));
  if (!row) throw new Failure("delivery-missing", `There is no delivery ${id}. It may have been put aside.`, 404);
  return row;
}

export async function deliveryOf(actor: Actor, id: number): Promise<Delivery> {
  await allow(actor, "see", { delivery: id });
  return deliveryRow(id);
}

/** The deliveries of a collection, newest first; those of which nothing has arrived yet are not among them. */
export async function deliveriesOf(actor: Actor, collection: number): Promise<Delivery[]> {
  await allow(actor, "see", { collection });
  return db()
    .select()
    .from(deliveries)
    .where(and(eq(deliveries.collectionId, collection), ne(deliveries.status, "begun")))
    .orderBy(desc(deliveries.createdAt), desc(deliveries.id));
}

export const deliveryChangeSchema = z
  .object({
    name: deliveryName.optional(),
    facts: deliveryFactsSchema.optional(),
    choices: changedChoicesSchema.optional(),
  })
  .refine(({ name, facts, choices }) => (name ?? facts ?? choices) !== undefined, "Nothing to change was sent.");

/** While a delivery is open, files can be added to it and decided about. */
const open: DeliveryStatus[] = ["begun", "arriving", "read", "failed"];

/**
 * Changes a delivery's name and facts at any time, and what is decided about it until it is taken in. Choices that
 * change what is read start reading anew; then the job that does is returned.
 */
export async function changeDelivery(
  actor: Actor,
  id: number,
  input: z.input<typeof deliveryChangeSchema>,
): Promise<{ job: string | null }> {
  const collection = await allow(actor, "deliver", { delivery: id });
  const { name, facts, choices } = deliveryChangeSchema.parse(input);
  const { anew } = await transaction(async (tx) => {
    await changed(tx, collection, "deliveries", ...(facts ? (["stock"] as const) : []));
    const [delivery] = await tx.select().from(deliveries).where(eq(deliveries.id, id)).for("update");
    if (!delivery) throw new Failure("delivery-missing", `There is no delivery ${id}.`, 404);
    if (choices && !open.includes(delivery.status))
      throw new Failure(
        "delivery-busy",
        "What to do with a delivery can be changed once it is read and before it is taken in.",
        409,
      );
    const before = choicesOf(delivery);
    const after = allChoices({ ...before, ...choices });
    await tx
      .update(deliveries)
      .set({
        ...(name !== undefined ? { name } : {}),
        ...(facts ? { facts } : {}),
        ...(choices ? { choices: after } : {}),
      })
      .where(eq(deliveries.id, id));
    return {
      anew:
        delivery.status !== "begun" &&
        delivery.status !== "arriving" &&
        readingChoices.some((key) => canonicalJson(after[key]) !== canonicalJson(before[key])),
    };
  });
  return anew ? readAgain(actor, id) : { job: null };
}

/** Reads a delivery again: otherwise, with more files, or after reading failed or was stopped. */
export async function readAgain(actor: Actor, id: number): Promise<{ job: string }> {
  const collection = await allow(actor, "deliver", { delivery: id });
  await untilDeliveryRests(id);
  return transaction((tx) => startReading(tx, actor, collection, id));
}

/** Starts reading an open delivery, within a transaction of the caller's. */
export async function startReading(
  tx: Transaction,
  actor: Actor,
  collection: number,
  id: number,
): Promise<{ job: string }> {
  await changed(tx, collection, "deliveries");
  const [delivery] = await tx
    .update(deliveries)
    .set({ status: "waiting", failure: null, looked: null })
    // Asked for twice at once, it is one reading: the job that there is already is returned.
    .where(and(eq(deliveries.id, id), inArray(deliveries.status, [...open, "waiting", "reading"])))
    .returning();
  if (!delivery) throw new Failure("delivery-busy", "This delivery is being worked on, or is taken in already.", 409);
  const title = `Reading ${delivery.name}`;
  return { job: await addJob(actor, { kind: "read-delivery", subject: id, collectionId: collection, title }, tx) };
}

/** Starts taking in. Asking twice is harmless: the second time nothing is started. */
export async function takeInDelivery(actor: Actor, id: number): Promise<{ job: string | null }> {
  const collection = await allow(actor, "deliver", { delivery: id });
  return transaction(async (tx) => {
    await changed(tx, collection, "deliveries");
    const [delivery] = await tx
      .update(deliveries)
      .set({ status: "taking", failure: null })
      .where(and(eq(deliveries.id, id), eq(deliveries.status, "read")))
      .returning();
    if (delivery) {
      const title = `Taking in ${delivery.name}`;
      return { job: await addJob(actor, { kind: "take-in", subject: id, collectionId: collection, title }, tx) };
    }
    const [now] = await tx.select({ status: deliveries.status }).from(deliveries).where(eq(deliveries.id, id));
    if (now?.status === "taking" || now?.status === "taken") return { job: null };
    throw new Failure("delivery-not-read", "This delivery has not been read yet.", 409);
  });
}

const ordinal = z.number().int().min(0);

export const leaveOutSchema = z
  .object({
    leftOut: z.boolean(),
    /** Places in the delivery. */
    ordinals: z.array(ordinal).max(100_000).optional(),
    /** Places from one to another, both among them, of what `shown` shows. */
    range: z.tuple([ordinal, ordinal]).optional(),
    /** Everything below a folder. */
    folder: z.string().min(1).max(4000).optional(),
    /** What the sheet shows: of a filter, of a finding. */
    shown: shownSchema.optional(),
  })
  .refine(
    ({ ordinals, range, folder, shown }) => (ordinals ?? range ?? folder ?? shown) !== undefined,
    "Which images are meant was not said.",
  );

/**
 * Leaves images out of a delivery, or takes them back: those that fit everything that is said of them. Saying it again
 * changes nothing.
 */
export async function leaveOut(actor: Actor, id: number, input: z.infer<typeof leaveOutSchema>): Promise<void> {
  const collection = await allow(actor, "deliver", { delivery: id });
  await transaction(async (tx) => {
    await changed(tx, collection, "deliveries");
    const [delivery] = await tx.select({ status: deliveries.status }).from(deliveries).where(eq(deliveries.id, id));
    if (delivery?.status !== "read")
      throw new Failure(
        "delivery-busy",
        "Images can be left out once the delivery is read and before it is taken in.",
        409,
      );
    const { ordinals, range, folder, shown } = input;
    await tx
      .update(deliveryItems)
      .set({ leftOut: input.leftOut })
      .where(
        and(
          eq(deliveryItems.deliveryId, id),
          // One parameter, however many there are.
          ordinals && sql`${deliveryItems.ordinal} = any(${numberList(ordinals, "int")})`,
          range && between(deliveryItems.ordinal, Math.min(...range), Math.max(...range)),
          folder !== undefined
            ? sql`starts_with(${deliveryItems.path}, ${`${folder.replace(/\/+$/, "")}/`})`
            : undefined,
          shown && shownCondition(shown, collection),
        ),
      );
  });
}

/** What undoing would do, to be said before it is done. */
export async function beforeUndo(actor: Actor, id: number): Promise<UndoForecast> {
  await allow(actor, "see", { delivery: id });
  return undoForecast(await deliveryRow(id));
}

/**
 * Undoes a delivery: its images go into the bin, labels it changed become what they were, classes that came with it and
 * that nothing else uses leave the list. It stays in the book as undone, and can be done again while the bin is not
 * emptied. One that is not taken in is put aside: nothing of it stays. Both are jobs where they take long.
 */
export async function undoDelivery(
  actor: Actor,
  id: number,
): Promise<Omit<ActOutcome, "act"> & { act: number | null }> {
  const collection = await allow(actor, "deliver", { delivery: id });
  const act = await takeInAct(id);
  return transaction(async (tx) => {
    await changed(tx, collection, "deliveries");
    const [delivery] = await tx.select().from(deliveries).where(eq(deliveries.id, id)).for("update");
    if (!delivery) throw new Failure("delivery-missing", `There is no delivery ${id}.`, 404);
    const { status, name } = delivery;
    if (status === "undone" || status === "undoing")
      throw new Failure("delivery-undone", "This delivery is undone already.", 409);
    if (status === "taking") throw new Failure("delivery-busy", "It is being taken in. Stop that first, or wait.", 409);
    if (status === "taken" && act !== null) return startUndo(tx, actor, act);
    await tx.update(deliveries).set({ status: "undoing" }).where(eq(deliveries.id, id));
    const title = `Putting ${name} aside`;
    const job = await addJob(actor, { kind: "put-aside", subject: id, collectionId: collection, title }, tx);
    return { act: null, text: title, images: 0, left: 0, job };
  });
}
