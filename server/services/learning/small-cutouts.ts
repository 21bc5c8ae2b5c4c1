/** Small cut-outs of objects, which stand in for sharp ones until somebody looks at them. */
import { floatBox } from "@larder/core/learning/image-features";
import type { Pixels } from "@larder/core/learning/features";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import { sql } from "drizzle-orm";
import pLimit from "p-limit";
import type { Transaction } from "../../db/database";
import { smallCutout } from "../../pixels/cutout";

/** `picture`: a WebP. */
export type SmallCutout = { object: number; picture: Uint8Array };

/** Of an image with more places than this, the others are cut once somebody looks at them. */
const mostPlaces = 2000;
const atOnce = pLimit(8);

/**
 * Cuts objects out of the pixels of their image's thumbnail; their boxes are in pixels of the image, which is of `size`.
 * Objects on one place share a picture; one that cannot be cut is left out.
 */
export async function cutSmall(
  pixels: Pixels,
  size: Size,
  objects: readonly (Box & { id: number })[],
): Promise<SmallCutout[]> {
  const places = new Map<string, Box>();
  const placeOf = (box: Box) => floatBox(box).join(" ");
  for (const object of objects) if (places.size < mostPlaces) places.set(placeOf(object), object);
  const pictures = new Map<string, Uint8Array>();
  await Promise.all(
    Array.from(places, ([place, box]) =>
      atOnce(async () => {
        const picture = await smallCutout(pixels, box, size).catch(() => null);
        if (picture) pictures.set(place, picture);
      }),
    ),
  );
  return objects.flatMap((object) => {
    const picture = pictures.get(placeOf(object));
    return picture ? [{ object: object.id, picture }] : [];
  });
}

/** So many are written at once: together they stay within a few megabytes. */
const batchSize = 2000;

/** Writes cut-outs of the objects that are still there; those that somebody is just taking away are waited for. */
export async function saveSmallCutouts(tx: Transaction, cutouts: readonly SmallCutout[]): Promise<void> {
  for (let at = 0; at < cutouts.length; at += batchSize) {
    const rows = cutouts
      .slice(at, at + batchSize)
      .map(({ object, picture }) => ({ object, picture: Buffer.from(picture).toString("base64") }));
    await tx.execute(sql`
      insert into small_cutouts (object_id, picture)
      select o.id, decode(c.picture, 'base64') from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as c(object bigint, picture text)
      join objects o on o.id = c.object for key share of o on conflict do nothing`);
  }
}
