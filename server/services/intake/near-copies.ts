/** How many pictures of a delivery are nearly the same as another. */
import { nearCopies } from "@larder/core/checks/near-copies";
import { sql, type SQL } from "drizzle-orm";
import { db } from "../../db/database";

/**
 * Bits of 256 by which two pictures may differ and still be nearly the same. On the demo's trays, two shots of one tray
 * differ in 2 to 26, any other two pictures in 78 or more, but for empty racks, which are nearly the same indeed.
 */
export const nearCopyBits = 28;
const bytesEach = 32;

/** Hashes as one run of bytes: rows of their own would take several times the memory. */
async function hashesOf(rows: SQL): Promise<Uint8Array> {
  const result = await db().execute<{ hashes: Buffer | null }>(sql`select string_agg(decode(near_hash, 'hex'), '' order by sha256) as hashes from (${rows}) r`);
  return result.rows[0]?.hashes ?? new Uint8Array(0);
}

/** Pictures of a delivery, but for those left out, that are nearly the same as another of it or as one in stock; the very same bytes do not count. */
export async function countNearCopies(deliveryId: number, collectionId: number): Promise<number> {
  const inStock = sql`select sha256, near_hash from images where collection_id = ${collectionId} and near_hash is not null and delivery_id <> ${deliveryId}`;
  const stock = await hashesOf(inStock);
  const incoming = await hashesOf(sql`
    select distinct on (sha256) sha256, near_hash from delivery_items where delivery_id = ${deliveryId} and near_hash is not null and not left_out
      and sha256 not in (select sha256 from (${inStock}) s) order by sha256, ordinal`);
  return nearCopies(incoming, stock, bytesEach, nearCopyBits).length;
}
