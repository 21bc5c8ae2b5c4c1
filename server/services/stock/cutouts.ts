/** Objects of the stock as cut-outs: which there are, in an order, with their pictures. */
import type { Selection } from "@larder/core/selection/chosen";
import { cutoutGroupSchema, cutoutOrders, orderNeedsLearned } from "@larder/core/snapshot/cutout-group";
import type { Cutout, CutoutGroups } from "@larder/core/snapshot/cutouts";
import { sql } from "drizzle-orm";
import pLimit from "p-limit";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { numberOf, rowsOf } from "../../db/query";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { startLearning, unlearned } from "../learning/learn";
import { keptCutout, makeCutout } from "./cutout-picture";

export const cutoutsAskedSchema = z.object({
  group: cutoutGroupSchema,
  by: z.enum(cutoutOrders),
  down: z.boolean(),
  start: z.number().int().min(0),
  limit: z.number().int().min(1).max(500),
  /**
   * Whether their pictures come along: small ones, which are the least to send; those that are ready, sharp where they
   * were cut before; or each cut sharp.
   */
  pictures: z.enum(["none", "small", "ready", "sharp"]),
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
 * pictures are rough or missing, and can be had sharp.
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

type ImageRow = z.infer<typeof rowSchema>;
/** The bytes of a WebP; null where there is none. */
type Picture = { bytes: Uint8Array | null; isRough: boolean };

/** Pictures made side by side, whoever asks: as many as are decoded at once. Who asked first has his whole page first. */
const atOnce = pLimit(4);

async function sharpPictures(
  cutouts: readonly Cutout[],
  images: ReadonlyMap<number, ImageRow>,
  signal: AbortSignal | undefined,
): Promise<Picture[]> {
  const pictureOf = async (cutout: Cutout) => {
    const image = images.get(cutout.image);
    // Whoever has scrolled on does not wait for it any more.
    if (!image || signal?.aborted) return null;
    return makeCutout(image.sha256, image, cutout).catch(() => null);
  };
  return Promise.all(cutouts.map(async (cutout) => ({ bytes: await atOnce(() => pictureOf(cutout)), isRough: false })));
}

const smallSchema = z.object({ object: z.coerce.number(), picture: z.instanceof(Buffer) });

/** Small pictures of objects, by their ids. */
async function smallPictures(objects: readonly number[]): Promise<Map<number, Uint8Array>> {
  if (objects.length === 0) return new Map();
  const rows = await rowsOf(
    db(),
    smallSchema,
    sql`select object_id as object, picture from small_cutouts where object_id = any(${numberList(objects)})`,
  );
  return new Map(rows.map(({ object, picture }) => [object, picture]));
}

/** Pictures without any being cut: small ones, of whole images their thumbnails; with `kept` those that were cut before. */
async function readyPictures(
  cutouts: readonly Cutout[],
  images: ReadonlyMap<number, ImageRow>,
  { kept }: { kept: boolean },
): Promise<Picture[]> {
  const store = blobs();
  const sharp = await Promise.all(
    cutouts.map(async (cutout) => {
      const image = kept ? images.get(cutout.image) : undefined;
      return image ? keptCutout(image.sha256, image, cutout).catch(() => null) : null;
    }),
  );
  const small = await smallPictures(cutouts.flatMap(({ object }, n) => (sharp[n] ? [] : (object ?? []))));
  return Promise.all(
    cutouts.map(async ({ object, image }, n) => {
      const bytes = sharp[n] ?? null;
      if (bytes) return { bytes, isRough: false };
      if (object !== null) return { bytes: small.get(object) ?? null, isRough: true };
      const sha256 = images.get(image)?.sha256 ?? "";
      return { bytes: await store.readDerived("thumbnails", sha256).catch(() => null), isRough: true };
    }),
  );
}

/** The pictures of cut-outs as they were asked for. */
function picturesOf(
  asked: CutoutsAsked["pictures"],
  cutouts: readonly Cutout[],
  images: ReadonlyMap<number, ImageRow>,
  signal: AbortSignal | undefined,
): Promise<Picture[]> {
  if (asked === "none") return Promise.resolve([]);
  if (asked === "sharp") return sharpPictures(cutouts, images, signal);
  return readyPictures(cutouts, images, { kept: asked === "ready" });
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
      sql`select id, name, sha256, width, height from images where id = any(${numberList([...new Set(cutouts.map(({ image }) => image))])})`,
    ),
    rowsOf(
      db(),
      uidSchema,
      sql`select id, uid from objects where id = any(${numberList(cutouts.flatMap(({ object }) => object ?? []))})`,
    ),
    orderNeedsLearned(asked.by)
      ? numberOf(db(), sql`select count(*) as n from images i where i.collection_id = ${collection} and ${unlearned}`)
      : 0,
  ]);
  if (waiting > 0) await startLearning();
  const byId = new Map(images.map((image) => [image.id, image]));
  const pictures = await picturesOf(asked.pictures, cutouts, byId, signal);
  const uids = new Map(objects.map(({ id, uid }) => [id, uid]));
  return {
    total,
    waiting,
    isRough: pictures.some(({ isRough }) => isRough),
    cutouts: cutouts.map(({ object, ...cutout }, n) => {
      const bytes = pictures[n]?.bytes;
      return {
        ...cutout,
        uid: object === null ? null : (uids.get(object) ?? null),
        name: byId.get(cutout.image)?.name ?? "",
        picture: bytes ? Buffer.from(bytes).toString("base64") : null,
      };
    }),
  };
}

/** The groups that the objects of a selection fall into. */
export async function groupsOfCutouts(actor: Actor, collection: number, selection: Selection): Promise<CutoutGroups> {
  await allow(actor, "see", { collection });
  return ask("cutoutGroups", collection, selection);
}
