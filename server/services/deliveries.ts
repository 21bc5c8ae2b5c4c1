import { openPicture } from "@larder/core/formats/open-picture";
import { settle } from "@larder/core/formats/settle";
import { Failure } from "@larder/core/model/failure";
import { Findings } from "@larder/core/model/finding";
import type { Item, LabeledObject } from "@larder/core/model/item";
import { and, asc, desc, eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { deliveries, deliveryItems, jobs } from "../db/schema";
import { announce } from "../jobs/events";
import { addJob, handOut, requestStop } from "../jobs/queue";
import { probe } from "../pixels/probe";
import { thumbnail } from "../pixels/thumbnail";
import { settings } from "../settings";
import { mustEdit, type Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { collectionRow } from "./collections";
import { removeArchive, withArchive } from "./intake/source";

export type Delivery = typeof deliveries.$inferSelect;

const deliveryName = z.string().trim().min(1, "Give it a name.").max(120, "A name has 120 characters at most.");

/** The name proposed for a delivery: its file's, made legible, and the day. */
export function proposedName(fileName: string, day: Date): string {
  const stem = fileName.replace(/\.(zip|tar|gz|tgz)$/i, "").replace(/[_-]+/g, " ").trim();
  const legible = stem === "" ? "Delivery" : (stem[0] as string).toUpperCase() + stem.slice(1);
  return `${legible}, ${day.toLocaleDateString("en-GB", { day: "numeric", month: "long" })}`;
}

/** Writes down that an archive has arrived and starts reading it. */
export async function receiveDelivery(actor: Actor, input: { collectionId: number; archive: string; fileName: string; bytes: number; name?: string }): Promise<{ id: number; job: string }> {
  mustEdit(actor);
  await collectionRow(input.collectionId);
  const { collectionId, archive, fileName, bytes } = input;
  const name = input.name ?? proposedName(fileName, new Date());
  const received = await db().transaction(async (tx) => {
    const [row] = await tx.insert(deliveries).values({ collectionId, name, source: fileName, archive, bytes, createdBy: actor.id }).returning({ id: deliveries.id });
    const id = row?.id as number;
    return { id, job: await addJob(actor, { kind: "read-delivery", subject: id, collectionId, title: `Reading ${name}` }, tx) };
  });
  await handOut(received.job);
  await announce({ kind: "collection", collection: collectionId });
  return received;
}

export async function deliveryRow(id: number): Promise<Delivery> {
  const [row] = await db().select().from(deliveries).where(eq(deliveries.id, id));
  if (!row) throw new Failure("delivery-missing", `There is no delivery ${id}. It may have been undone or put aside.`, 404);
  return row;
}

export async function deliveriesOf(_actor: Actor, collectionId: number): Promise<Delivery[]> {
  return db().select().from(deliveries).where(eq(deliveries.collectionId, collectionId)).orderBy(desc(deliveries.createdAt), desc(deliveries.id));
}

export async function renameDelivery(actor: Actor, id: number, input: { name: string }): Promise<void> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  await db().update(deliveries).set({ name: deliveryName.parse(input.name) }).where(eq(deliveries.id, id));
  await announce({ kind: "collection", collection: delivery.collectionId });
}

/** Reads an archive again whose reading failed or was stopped. */
export async function readAgain(actor: Actor, id: number): Promise<{ job: string }> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  if (delivery.status !== "failed" && delivery.status !== "read") throw new Failure("delivery-busy", "This delivery is being worked on, or is taken in already.", 409);
  const job = await db().transaction(async (tx) => {
    await tx.update(deliveries).set({ status: "waiting", failure: null }).where(eq(deliveries.id, id));
    return addJob(actor, { kind: "read-delivery", subject: id, collectionId: delivery.collectionId, title: `Reading ${delivery.name}` }, tx);
  });
  await handOut(job);
  return { job };
}

/** Starts taking in. Asking twice is harmless: the second time nothing is started. */
export async function takeInDelivery(actor: Actor, id: number): Promise<{ job: string | null }> {
  mustEdit(actor);
  const started = await db().transaction(async (tx) => {
    const [delivery] = await tx.update(deliveries).set({ status: "taking", failure: null }).where(and(eq(deliveries.id, id), eq(deliveries.status, "read"))).returning();
    return delivery ? { delivery, job: await addJob(actor, { kind: "take-in", subject: id, collectionId: delivery.collectionId, title: `Taking in ${delivery.name}` }, tx) } : null;
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
export async function leaveOut(actor: Actor, id: number, input: { ordinals: number[]; leftOut: boolean }): Promise<void> {
  mustEdit(actor);
  if ((await deliveryRow(id)).status !== "read") throw new Failure("delivery-busy", "Images can be left out once the delivery is read and before it is taken in.", 409);
  await db().update(deliveryItems).set({ leftOut: input.leftOut }).where(and(eq(deliveryItems.deliveryId, id), inArray(deliveryItems.ordinal, input.ordinals)));
}

async function stopJobsOf(id: number): Promise<void> {
  const running = await db().select({ id: jobs.id }).from(jobs).where(and(inArray(jobs.kind, ["read-delivery", "take-in"]), eq(jobs.subject, id), inArray(jobs.status, ["queued", "running"])));
  for (const job of running) await requestStop(job.id);
}

/**
 * Removes a delivery with all it brought: images, objects, and the classes that came with it and that nothing else uses.
 * Versions built from it keep the bytes they need. For a delivery not yet taken in, it is put aside.
 */
export async function undoDelivery(actor: Actor, id: number): Promise<{ images: number }> {
  mustEdit(actor);
  const delivery = await deliveryRow(id);
  if (delivery.status === "taking" || delivery.status === "reading") {
    await stopJobsOf(id);
    throw new Failure("delivery-busy", "The work on this delivery is being stopped. Undo it when it has stopped.", 409);
  }
  const images = await db().transaction(async (tx) => {
    await tx.execute(sql`select id from collections where id = ${delivery.collectionId} for update`);
    await tx.execute(sql`insert into blob_candidates select sha256 from images where delivery_id = ${id} on conflict do nothing`);
    await tx.execute(sql`delete from objects using images where objects.image_id = images.id and images.delivery_id = ${id}`);
    const gone = await tx.execute(sql`delete from images where delivery_id = ${id}`);
    await tx.execute(sql`delete from classes k where k.collection_id = ${delivery.collectionId} and k.id in (select jsonb_array_elements_text(${JSON.stringify(delivery.newClasses)}::jsonb)::bigint)
      and not exists (select 1 from objects o where o.class_id = k.id) and not exists (select 1 from images i where i.collection_id = k.collection_id and k.id = any(i.image_class_ids))`);
    await tx.delete(deliveries).where(eq(deliveries.id, id));
    return gone.rowCount ?? 0;
  });
  await removeArchive(delivery.archive);
  await removeUnusedBlobs();
  await announce({ kind: "collection", collection: delivery.collectionId });
  return { images };
}

export const itemFilters = ["all", "labeled", "unlabeled", "empty", "unreadable", "left-out"] as const;
export type ItemFilter = (typeof itemFilters)[number];
export type PreviewItem = {
  ordinal: number;
  path: string;
  split: string | null;
  state: string;
  leftOut: boolean;
  unreadable: string | null;
  size: { width: number; height: number } | null;
  objects: LabeledObject[];
  classes: string[];
};

const filterCondition: Record<ItemFilter, ReturnType<typeof sql>> = {
  all: sql`true`,
  labeled: sql`state = 'labeled' and unreadable is null`,
  unlabeled: sql`state = 'unlabeled' and unreadable is null`,
  empty: sql`state = 'empty' and unreadable is null`,
  unreadable: sql`unreadable is not null`,
  "left-out": sql`left_out`,
};

/** Images of a delivery as they would come in, with their labels settled on the files' real size; read from the archive on demand. */
export async function previewItems(_actor: Actor, id: number, input: { filter: ItemFilter; offset: number; limit: number }): Promise<{ total: number; leftOut: number; items: PreviewItem[] }> {
  const delivery = await deliveryRow(id);
  const where = and(eq(deliveryItems.deliveryId, id), filterCondition[input.filter]);
  const [counts] = await db().select({ total: sql<number>`count(*)::int` }).from(deliveryItems).where(where);
  const [out] = await db().select({ n: sql<number>`count(*)::int` }).from(deliveryItems).where(and(eq(deliveryItems.deliveryId, id), eq(deliveryItems.leftOut, true)));
  const rows = await db().select().from(deliveryItems).where(where).orderBy(asc(deliveryItems.ordinal)).offset(input.offset).limit(input.limit);
  if (rows.length === 0) return { total: counts?.total ?? 0, leftOut: out?.n ?? 0, items: [] };
  return withArchive(delivery.archive, async (tree) => {
    const items = await Promise.all(
      rows.map(async (row): Promise<PreviewItem> => {
        const item = row.item as Item;
        const base = { ordinal: row.ordinal, path: row.path, split: row.split, leftOut: row.leftOut, classes: item.classes };
        try {
          const facts = await probe(await openPicture(tree, item), settings().limits.pixels);
          const settled = settle(item, facts, new Findings());
          return { ...base, state: settled.state, unreadable: row.unreadable, size: { width: facts.width, height: facts.height }, objects: settled.objects };
        } catch (error) {
          if (!(error instanceof Failure)) throw error;
          return { ...base, state: row.state, unreadable: error.message, size: null, objects: [] };
        }
      }),
    );
    return { total: counts?.total ?? 0, leftOut: out?.n ?? 0, items };
  });
}

/** A thumbnail straight from the archive. */
export async function previewPicture(_actor: Actor, id: number, ordinal: number): Promise<Uint8Array> {
  const delivery = await deliveryRow(id);
  const [row] = await db().select({ item: deliveryItems.item }).from(deliveryItems).where(and(eq(deliveryItems.deliveryId, id), eq(deliveryItems.ordinal, ordinal)));
  if (!row) throw new Failure("image-missing", "There is no such image in this delivery.", 404);
  return withArchive(delivery.archive, async (tree) => {
    const bytes = await openPicture(tree, row.item as Item);
    await probe(bytes, settings().limits.pixels);
    return thumbnail(bytes, settings().limits.pixels);
  });
}
