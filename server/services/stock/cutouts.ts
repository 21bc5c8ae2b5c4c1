/** Objects of the stock as cut-outs: which there are, in an order, and their pictures. */
import { Failure } from "@larder/core/model/failure";
import type { Box } from "@larder/core/model/shape";
import type { Selection } from "@larder/core/selection/chosen";
import {
  cutoutGroupSchema,
  cutoutOrders,
  orderNeedsLearned,
  type Cutout,
  type CutoutGroups,
} from "@larder/core/snapshot/cutouts";
import { sql } from "drizzle-orm";
import { createHash } from "node:crypto";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { cutOut, cutoutFrame, isShownBy } from "../../pixels/cutout";
import { thumbnailEdge } from "../../pixels/thumbnail";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { startLearning, unlearned } from "../learning/learn";
import { readSource } from "../source-bytes";
import { imageBytes } from "../stock";

export const cutoutsAskedSchema = z.object({
  group: cutoutGroupSchema,
  by: z.enum(cutoutOrders),
  down: z.boolean(),
  start: z.number().int().min(0),
  limit: z.number().int().min(1).max(500),
});

export type ShownCutout = Omit<Cutout, "object"> & { uid: string | null; name: string };
/** `waiting`: images of the stock whose looks are not known yet, where the order asks for them. */
export type ShownCutouts = { total: number; waiting: number; cutouts: ShownCutout[] };

const rowSchema = z.object({ id: z.coerce.number(), name: z.string() });
const uidSchema = z.object({ id: z.coerce.number(), uid: z.uuid() });

/** A page of the cut-outs of a group, `start` from 0. */
export async function cutoutsPage(
  actor: Actor,
  collection: number,
  selection: Selection,
  asked: z.infer<typeof cutoutsAskedSchema>,
): Promise<ShownCutouts> {
  await allow(actor, "see", { collection });
  const { total, cutouts } = await ask("cutouts", collection, { selection, ...asked });
  const [images, objects, waiting] = await Promise.all([
    rowsOf(
      db(),
      rowSchema,
      sql`select id, name from images where id = any(${sql.param([...new Set(cutouts.map(({ image }) => image))])}::bigint[])`,
    ),
    rowsOf(
      db(),
      uidSchema,
      sql`select id, uid from objects where id = any(${sql.param(cutouts.flatMap(({ object }) => object ?? []))}::bigint[])`,
    ),
    orderNeedsLearned(asked.by)
      ? numberOf(db(), sql`select count(*) as n from images i where i.collection_id = ${collection} and ${unlearned}`)
      : 0,
  ]);
  if (waiting > 0) await startLearning();
  const names = new Map(images.map(({ id, name }) => [id, name]));
  const uids = new Map(objects.map(({ id, uid }) => [id, uid]));
  return {
    total,
    waiting,
    cutouts: cutouts.map(({ object, ...cutout }) => ({
      ...cutout,
      uid: object === null ? null : (uids.get(object) ?? null),
      name: names.get(cutout.image) ?? "",
    })),
  };
}

/** The groups that the objects of a selection fall into. */
export async function groupsOfCutouts(actor: Actor, collection: number, selection: Selection): Promise<CutoutGroups> {
  await allow(actor, "see", { collection });
  return ask("cutoutGroups", collection, selection);
}

const length = z.coerce.number().finite().min(0).max(1e6);
export const cutoutBoxSchema = z.object({ x: length, y: length, width: length, height: length });

const sizeSchema = z.object({ width: z.number(), height: z.number() });

/** The picture of a box on an image, with some of what is around it; made once. */
export async function cutoutPicture(actor: Actor, image: number, box: Box): Promise<Uint8Array> {
  const { sha256 } = await imageBytes(actor, image);
  const [size] = await rowsOf(db(), sizeSchema, sql`select width, height from images where id = ${image}`);
  if (!size) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  const frame = cutoutFrame(box, size);
  const place = [frame.x, frame.y, frame.width, frame.height].map((value) => value.toFixed(1)).join(" ");
  const key = `${sha256}/${createHash("sha256").update(place).digest("hex")}`;
  const store = blobs();
  if (await store.hasDerived("cutouts", key)) return store.readDerived("cutouts", key);
  const small = isShownBy(frame, size, thumbnailEdge) && (await store.hasDerived("thumbnails", sha256));
  const bytes = small ? await store.readDerived("thumbnails", sha256) : await readSource(sha256);
  const picture = await cutOut(bytes, frame, size);
  await store.putDerived("cutouts", key, picture);
  return picture;
}
