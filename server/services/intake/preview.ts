/** What the intake sheet shows of single images, before anything is stock. */
import { openPicture } from "@larder/core/formats/open-picture";
import { frameChoice } from "@larder/core/formats/label-frame";
import { settle } from "@larder/core/formats/settle";
import { Failure } from "@larder/core/model/failure";
import { Findings } from "@larder/core/model/finding";
import type { LabeledObject } from "@larder/core/model/item";
import { unpackShape, unpackShapeOf } from "@larder/core/labels/stored-shape";
import { and, asc, eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { deliveryItems } from "../../db/schema";
import { probe } from "../../pixels/probe";
import { thumbnail } from "../../pixels/thumbnail";
import { settings } from "../../settings";
import { numberList } from "../../db/array-literal";
import { rowsOf } from "../../db/query";
import { allow } from "../access";
import type { Actor } from "../actor";
import { classNamesById } from "../labels/class-names";
import { objectColumns, objectRowSchema } from "../labels/load-labels";
import { unpackItem } from "./staged-item";
import { deliveryRow } from "../deliveries";
import { choicesOf, withDelivery } from "./open-delivery";
import { shownCondition, shownSchema } from "./shown-items";

export const previewQuerySchema = z.object({
  ...shownSchema.shape,
  offset: z.number().int().min(0),
  limit: z.number().int().min(1).max(60),
});

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
  findings: string[];
  takenAt: string | null;
  place: [number, number] | null;
  /** The image of the same bytes that is in stock already. */
  there: InStock | null;
  /** Another picture that is nearly the same: an image in stock, or another of this delivery, by its place in it. */
  near: (Shown & ({ image: number } | { ordinal: number })) | null;
};

type Shown = {
  name: string;
  size: { width: number; height: number } | null;
  objects: { class: string; shape: LabeledObject["shape"] }[];
};
type InStock = Shown & { id: number; state: string };

type StockRow = InStock & { sha256: string };

const inStockSchema = z.object({
  sha256: z.string(),
  id: z.coerce.number(),
  state: z.string(),
  name: z.string(),
  width: z.number(),
  height: z.number(),
});

/** Images in stock with their labels, those of some bytes and those of some ids. */
async function imagesInStock(
  collectionId: number,
  hashes: readonly string[],
  ids: readonly number[],
): Promise<StockRow[]> {
  if (hashes.length === 0 && ids.length === 0) return [];
  const images = await rowsOf(
    db(),
    inStockSchema,
    sql`select i.sha256, i.id, i.state, i.name, i.width, i.height from images i where i.collection_id = ${collectionId} and i.removed_at is null
      and (i.sha256 = any(${sql.param([...hashes])}::text[]) or i.id = any(${numberList([...ids])}))`,
  );
  const names = await classNamesById(db(), collectionId);
  const objects = await rowsOf(
    db(),
    objectRowSchema,
    sql`select ${objectColumns} from objects o where o.image_id = any(${numberList(images.map(({ id }) => id))}) order by o.image_id, o.ordinal, o.uid`,
  );
  return images.map(({ width, height, ...image }) => ({
    ...image,
    size: { width, height },
    objects: objects
      .filter((row) => row.image === image.id)
      .map(({ object }) => ({ class: names.get(object.class) ?? "", shape: object.shape })),
  }));
}

/** Others of the same delivery with their labels, by their place in it. */
async function othersOfDelivery(
  id: number,
  ordinals: readonly number[],
): Promise<Map<number, Shown & { ordinal: number }>> {
  if (ordinals.length === 0) return new Map();
  const rows = await db()
    .select({
      ordinal: deliveryItems.ordinal,
      name: deliveryItems.path,
      width: deliveryItems.width,
      height: deliveryItems.height,
      objects: deliveryItems.objects,
    })
    .from(deliveryItems)
    .where(and(eq(deliveryItems.deliveryId, id), inArray(deliveryItems.ordinal, [...ordinals])));
  return new Map(
    rows.map(({ ordinal, name, width, height, objects }) => [
      ordinal,
      {
        ordinal,
        name,
        size: width !== null && height !== null ? { width, height } : null,
        objects: (objects ?? []).map((object) => ({ class: object.class, shape: unpackShape(object.shape) })),
      },
    ]),
  );
}

/**
 * Images of a delivery as they would come in, with their labels settled on the files' real size; what was not looked
 * into yet is read on demand.
 */
export async function previewItems(
  actor: Actor,
  id: number,
  input: z.infer<typeof previewQuerySchema>,
): Promise<{ total: number; items: PreviewItem[] }> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const where = and(eq(deliveryItems.deliveryId, id), shownCondition(input, delivery.collectionId));
  const [counts] = await db()
    .select({ total: sql<number>`count(*)::int` })
    .from(deliveryItems)
    .where(where);
  const rows = await db()
    .select()
    .from(deliveryItems)
    .where(where)
    // What repeats stands beside what it repeats.
    .orderBy(...(input.filter === "repeats" ? [asc(deliveryItems.sha256)] : []), asc(deliveryItems.ordinal))
    .offset(input.offset)
    .limit(input.limit);
  const total = counts?.total ?? 0;
  if (rows.length === 0) return { total, items: [] };
  const inStock = await imagesInStock(
    delivery.collectionId,
    rows.flatMap((row) => row.sha256 ?? []),
    rows.flatMap((row) => row.nearImage ?? []),
  );
  const others = await othersOfDelivery(
    id,
    rows.flatMap((row) => row.nearOrdinal ?? []),
  );
  const nearTo = (row: (typeof rows)[number]): PreviewItem["near"] => {
    if (row.nearOrdinal !== null) return others.get(row.nearOrdinal) ?? null;
    const image = inStock.find((one) => one.id === row.nearImage);
    return image ? { image: image.id, name: image.name, size: image.size, objects: image.objects } : null;
  };
  const previews = rows.map((row): PreviewItem => {
    const { item } = row;
    return {
      ordinal: row.ordinal,
      path: row.path,
      split: row.split,
      leftOut: row.leftOut,
      classes: item.classes,
      state: row.settledState ?? row.state,
      unreadable: row.unreadable,
      size: row.width !== null && row.height !== null ? { width: row.width, height: row.height } : null,
      objects: (row.objects ?? []).map(({ box: _, area: __, ...object }) => unpackShapeOf(object)),
      findings: (row.findings ?? []).map(({ code }) => code),
      takenAt: row.takenAt?.replace(" ", "T") ?? null,
      place: row.latitude !== null && row.longitude !== null ? [row.latitude, row.longitude] : null,
      there: row.sha256 === null ? null : (inStock.find(({ sha256 }) => sha256 === row.sha256) ?? null),
      near: nearTo(row),
    };
  });
  if (rows.every((row) => row.ready || row.unreadable !== null)) return { total, items: previews };
  const frame = frameChoice(choicesOf(delivery).options);
  return withDelivery(delivery, async ({ tree }) => {
    const items = await Promise.all(
      previews.map(async (shown, index): Promise<PreviewItem> => {
        const row = rows[index];
        if (!row || row.ready || row.unreadable !== null) return shown;
        try {
          const facts = await probe(await openPicture(tree, unpackItem(row.item)), settings().limits.pixels);
          const settled = settle(unpackItem(row.item), facts, new Findings(), frame);
          return {
            ...shown,
            state: settled.state,
            size: { width: facts.width, height: facts.height },
            objects: settled.objects,
          };
        } catch (error) {
          if (!(error instanceof Failure)) throw error;
          return { ...shown, unreadable: error.message };
        }
      }),
    );
    return { total, items };
  });
}

/** A thumbnail: the one that was made when the picture was looked into, else made from the file. */
export async function previewPicture(actor: Actor, id: number, ordinal: number): Promise<Uint8Array> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const [row] = await db()
    .select({ item: deliveryItems.item, sha256: deliveryItems.sha256 })
    .from(deliveryItems)
    .where(and(eq(deliveryItems.deliveryId, id), eq(deliveryItems.ordinal, ordinal)));
  if (!row) throw new Failure("image-missing", "There is no such image in this delivery.", 404);
  if (row.sha256 !== null && (await blobs().hasDerived("thumbnails", row.sha256)))
    return blobs().readDerived("thumbnails", row.sha256);
  return withDelivery(delivery, async ({ tree }) => {
    const bytes = await openPicture(tree, unpackItem(row.item));
    await probe(bytes, settings().limits.pixels);
    return thumbnail(bytes, settings().limits.pixels);
  });
}
