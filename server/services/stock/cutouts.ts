/** Objects of the stock as cut-outs: which there are, in an order, with their pictures. */
import type { Selection } from "@larder/core/selection/chosen";
import {
  cutoutGroupSchema,
  cutoutOrders,
  orderNeedsLearned,
  type Cutout,
  type CutoutGroups,
} from "@larder/core/snapshot/cutouts";
import { sql } from "drizzle-orm";
import pLimit from "p-limit";
import { z } from "zod";
import { db } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { startLearning, unlearned } from "../learning/learn";
import { makeCutout } from "./cutout-picture";

export const cutoutsAskedSchema = z.object({
  group: cutoutGroupSchema,
  by: z.enum(cutoutOrders),
  down: z.boolean(),
  start: z.number().int().min(0),
  limit: z.number().int().min(1).max(500),
  /** Whether their pictures come along; rough ones where what is scrolled by is wanted soon. */
  pictures: z.enum(["none", "rough", "sharp"]),
});
type CutoutsAsked = z.infer<typeof cutoutsAskedSchema>;

export type ShownCutout = Omit<Cutout, "object"> & {
  uid: string | null;
  name: string;
  /** A WebP in base64; null where it was not asked for, or cannot be made. */
  picture: string | null;
};
/**
 * `waiting`: images of the stock whose looks are not known yet, where the order asks for them. `isRough`: some of the
 * pictures are rough, and can be had sharp.
 */
export type ShownCutouts = { total: number; waiting: number; isRough: boolean; cutouts: ShownCutout[] };

const rowSchema = z.object({
  id: z.coerce.number(),
  name: z.string(),
  sha256: z.string(),
  width: z.number(),
  height: z.number(),
});
const uidSchema = z.object({ id: z.coerce.number(), uid: z.uuid() });

/** Pictures made side by side, whoever asks: as many as are decoded at once. Who asked first has his whole page first. */
const atOnce = pLimit(4);

async function picturesOf(
  cutouts: readonly Cutout[],
  images: ReadonlyMap<number, z.infer<typeof rowSchema>>,
  mayBeRough: boolean,
  signal: AbortSignal | undefined,
): Promise<{ picture: string | null; isRough: boolean }[]> {
  const none = { picture: null, isRough: false };
  const pictureOf = async (cutout: Cutout) => {
    const image = images.get(cutout.image);
    // Whoever has scrolled on does not wait for it any more.
    if (!image || signal?.aborted) return none;
    const made = await makeCutout(image.sha256, image, cutout, mayBeRough).catch(() => null);
    return made ? { picture: Buffer.from(made.bytes).toString("base64"), isRough: made.isRough } : none;
  };
  return Promise.all(cutouts.map((cutout) => atOnce(() => pictureOf(cutout))));
}

/** A page of the cut-outs of a group, `start` from 0; `signal` tells that nobody waits for their pictures any more. */
export async function cutoutsPage(
  actor: Actor,
  collection: number,
  selection: Selection,
  asked: CutoutsAsked,
  signal?: AbortSignal,
): Promise<ShownCutouts> {
  await allow(actor, "see", { collection });
  const { total, cutouts } = await ask("cutouts", collection, { selection, ...asked });
  const [images, objects, waiting] = await Promise.all([
    rowsOf(
      db(),
      rowSchema,
      sql`select id, name, sha256, width, height from images where id = any(${sql.param([...new Set(cutouts.map(({ image }) => image))])}::bigint[])`,
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
  const byId = new Map(images.map((image) => [image.id, image]));
  const pictures = asked.pictures === "none" ? [] : await picturesOf(cutouts, byId, asked.pictures === "rough", signal);
  const uids = new Map(objects.map(({ id, uid }) => [id, uid]));
  return {
    total,
    waiting,
    isRough: pictures.some(({ isRough }) => isRough),
    cutouts: cutouts.map(({ object, ...cutout }, n) => ({
      ...cutout,
      uid: object === null ? null : (uids.get(object) ?? null),
      name: byId.get(cutout.image)?.name ?? "",
      picture: pictures[n]?.picture ?? null,
    })),
  };
}

/** The groups that the objects of a selection fall into. */
export async function groupsOfCutouts(actor: Actor, collection: number, selection: Selection): Promise<CutoutGroups> {
  await allow(actor, "see", { collection });
  return ask("cutoutGroups", collection, selection);
}
