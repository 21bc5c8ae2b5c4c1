/** The picture of a box on an image in stock, with some of what is around it. */
import { Failure } from "@larder/core/model/failure";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import { sql } from "drizzle-orm";
import { createHash } from "node:crypto";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { rowOf } from "../../db/query";
import { cutOut, cutoutFrame, isShownBy } from "../../pixels/cutout";
import { thumbnailEdge } from "../../pixels/thumbnail";
import { allow } from "../access";
import type { Actor } from "../actor";
import { readSource } from "../source-bytes";

const length = z.coerce.number().finite().min(0).max(1e6);
export const cutoutBoxSchema = z.object({ x: length, y: length, width: length, height: length });

/** The name under which the picture of a frame on a picture is kept. */
function keptName(sha256: string, frame: Box): string {
  const place = [frame.x, frame.y, frame.width, frame.height].map((value) => value.toFixed(1)).join(" ");
  return `${sha256}/${createHash("sha256").update(place).digest("hex")}`;
}

/** The picture of a box, in pixels of the upright picture of `size`, where it was cut before. */
export async function keptCutout(sha256: string, size: Size, box: Box): Promise<Uint8Array | null> {
  const [store, name] = [blobs(), keptName(sha256, cutoutFrame(box, size))];
  return (await store.hasDerived("cutouts", name)) ? store.readDerived("cutouts", name) : null;
}

/** Cuts a box, in pixels of the upright picture of `size`, out of a picture; a WebP, made once and kept. */
export async function makeCutout(sha256: string, size: Size, box: Box): Promise<Uint8Array> {
  const kept = await keptCutout(sha256, size, box);
  if (kept) return kept;
  const [store, frame] = [blobs(), cutoutFrame(box, size)];
  const isShown = isShownBy(frame, size, thumbnailEdge) && (await store.hasDerived("thumbnails", sha256));
  const source = isShown ? await store.readDerived("thumbnails", sha256) : await readSource(sha256);
  const bytes = await cutOut(source, frame, size);
  await store.putDerived("cutouts", keptName(sha256, frame), bytes);
  return bytes;
}

/** Boxes are compared as the snapshot keeps them, at single precision. */
const tolerance = 0.01;
const imageSchema = z.object({ sha256: z.string(), width: z.number(), height: z.number(), isLabeled: z.boolean() });

/**
 * The picture of a box that an object on an image has, or of the whole image. Throws a Failure `cutout-missing` where
 * nothing lies there: pictures of other places are not made and kept.
 */
export async function cutoutPicture(actor: Actor, image: number, box: Box): Promise<Uint8Array> {
  await allow(actor, "see", { image });
  const near = (column: "x" | "y" | "width" | "height") =>
    sql`abs(o.${sql.raw(column)} - ${box[column]}) <= ${tolerance}`;
  const row = await rowOf(
    db(),
    imageSchema,
    sql`select sha256, width, height, exists (
        select 1 from objects o where o.image_id = i.id and ${near("x")} and ${near("y")} and ${near("width")} and ${near("height")}
      ) as "isLabeled" from images i where i.id = ${image}`,
  );
  if (!row) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  const isWhole = box.x === 0 && box.y === 0 && box.width === row.width && box.height === row.height;
  if (!row.isLabeled && !isWhole)
    throw new Failure("cutout-missing", "No object of this image lies there any more.", 404);
  return makeCutout(row.sha256, row, box);
}
