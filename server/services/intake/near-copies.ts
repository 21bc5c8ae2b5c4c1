/** Which pictures of a delivery are nearly the same as another. */
import { bytesEach, nearCopies, nearCopyBits, nearPairs, type NearCopy } from "@larder/core/checks/near-copies";
import { batchesOf } from "@larder/core/columns/batches";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { rowOf } from "../../db/query";
import { db, type Transaction } from "../../db/database";

const hashesSchema = z.object({ hashes: z.instanceof(Buffer).nullable(), names: z.array(z.number()).nullable() });

/**
 * Hashes as one run of bytes, with the number each row goes by: rows of their own would take several times the memory.
 */
async function hashesOf(rows: SQL): Promise<{ hashes: Uint8Array; names: readonly number[] }> {
  const row = await rowOf(
    db(),
    hashesSchema,
    sql`select string_agg(decode(near_hash, 'hex'), '' order by sha256) as hashes, array_agg(name::int order by sha256) as names from (${rows}) r`,
  );
  return { hashes: row?.hashes ?? new Uint8Array(0), names: row?.names ?? [] };
}

/**
 * A picture of a delivery, by its place in it, and another place in it or an image in stock, by its id, that is nearly
 * the same.
 */
export type NearPair = { ordinal: number; nearOrdinal: number | null; nearImage: number | null };

/**
 * Pictures of a delivery, but for those left out, that are nearly the same as another of it or as one in stock; the
 * very same bytes do not count.
 */
export function findNearCopies(deliveryId: number, collectionId: number): Promise<Iterable<NearPair>> {
  return compare(deliveryId, collectionId, (among, against) => nearCopies(among, against, bytesEach, nearCopyBits));
}

/** As many near-copies are noted of one picture; thousands of empty racks are all nearly the same. */
export const mostNoted = 100;

/** As `findNearCopies`, with all that each is nearly the same as, `mostNoted` at most. */
export function findNearPairs(deliveryId: number, collectionId: number): Promise<Iterable<NearPair>> {
  return compare(deliveryId, collectionId, (among, against) =>
    nearPairs(among, against, { bytesEach, within: nearCopyBits, mostEach: mostNoted }),
  );
}

async function compare(
  deliveryId: number,
  collectionId: number,
  find: (among: Uint8Array, against: Uint8Array) => Iterable<NearCopy>,
): Promise<Iterable<NearPair>> {
  const inStock = sql`select sha256, near_hash, id as name from images where collection_id = ${collectionId} and removed_at is null and near_hash is not null and delivery_id <> ${deliveryId}`;
  const stock = await hashesOf(inStock);
  const incoming = await hashesOf(sql`
    select distinct on (sha256) sha256, near_hash, ordinal as name from delivery_items where delivery_id = ${deliveryId} and near_hash is not null and not left_out
      and sha256 not in (select sha256 from (${inStock}) s) order by sha256, ordinal`);
  const found = find(incoming.hashes, stock.hashes);
  return {
    // Named as they are asked for: all of them as objects would take hundreds of megabytes where pictures are all alike.
    *[Symbol.iterator]() {
      for (const { position, of, from } of found)
        yield {
          ordinal: incoming.names[position] as number,
          nearOrdinal: from === "among" ? (incoming.names[of] as number) : null,
          nearImage: from === "against" ? (stock.names[of] as number) : null,
        };
    },
  };
}

const batchSize = 5000;

/** Notes beside each picture of a delivery what it is nearly the same as. */
export async function noteNearCopies(tx: Transaction, deliveryId: number, pairs: Iterable<NearPair>): Promise<void> {
  for (const batch of batchesOf(pairs, batchSize)) {
    await tx.execute(sql`
      update delivery_items d set near_ordinal = s."nearOrdinal", near_image = s."nearImage"
      from jsonb_to_recordset(${JSON.stringify(batch)}::jsonb) as s(ordinal int, "nearOrdinal" int, "nearImage" bigint)
      where d.delivery_id = ${deliveryId} and d.ordinal = s.ordinal`);
  }
}

/** Notes beside each image that a delivery brought into stock which others it is nearly the same as, and beside those. */
export async function noteStockPairs(tx: Transaction, deliveryId: number, pairs: Iterable<NearPair>): Promise<void> {
  for (const batch of batchesOf(pairs, batchSize)) {
    await tx.execute(sql`
      with pair as (
        select m.id as one, coalesce(s."nearImage", o.id) as other
        from jsonb_to_recordset(${JSON.stringify(batch)}::jsonb) as s(ordinal int, "nearOrdinal" int, "nearImage" bigint)
        join images m on m.delivery_id = ${deliveryId} and m.ordinal = s.ordinal
        left join images o on o.delivery_id = ${deliveryId} and o.ordinal = s."nearOrdinal")
      insert into near_pairs (image_id, other_id)
      select one, other from pair where other in (select id from images) union select other, one from pair where other in (select id from images)
      on conflict do nothing`);
  }
}
