/** Near-copies among images that came into stock before pairs of them were kept. */
import { bytesEach, nearCopyBits, nearPairs } from "@larder/core/checks/near-copies";
import { batchesOf } from "@larder/core/columns/batches";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { rowOf, rowsOf } from "../../db/query";
import { noteStockChanges } from "../../db/stock-changes";
import { changed } from "../../jobs/events";
import { mostNoted } from "./near-copies";

const batchSize = 20_000;
const hashesSchema = z.object({ hashes: z.instanceof(Buffer).nullable(), ids: z.array(z.coerce.number()).nullable() });

/** Finds the pairs of one collection; nothing where another process was first. */
async function noteCollection(collection: number): Promise<void> {
  await transaction(async (tx) => {
    const revision = await changed(tx, collection, "stock");
    const found = await rowOf(
      tx,
      hashesSchema,
      sql`select string_agg(decode(near_hash, 'hex'), '' order by id) as hashes, array_agg(id order by id) as ids from images
        where collection_id = ${collection} and near_hash is not null and exists (select 1 from images o where o.collection_id = ${collection} and not o.near_noted)`,
    );
    const [hashes, ids] = [found?.hashes ?? new Uint8Array(0), found?.ids ?? []];
    const pairs = nearPairs(hashes, new Uint8Array(0), { bytesEach, within: nearCopyBits, mostEach: mostNoted });
    for (const some of batchesOf(pairs, batchSize)) {
      const idAt = (place: number) => ids[place] as number;
      const [one, other] = [some.map(({ position }) => idAt(position)), some.map(({ of }) => idAt(of))];
      await tx.execute(sql`insert into near_pairs (image_id, other_id)
        select a, b from unnest(${numberList(one)}, ${numberList(other)}) p(a, b)
        union select b, a from unnest(${numberList(one)}, ${numberList(other)}) p(a, b) on conflict do nothing`);
    }
    const fresh = sql`collection_id = ${collection} and not near_noted`;
    await noteStockChanges(tx, { collection, revision }, sql`select id from images where ${fresh}`);
    await tx.execute(sql`update images set near_noted = true where ${fresh}`);
  });
}

/** Notes what images that came earlier are nearly the same as; a collection at a time, each whole or not at all. */
export async function noteOldNearPairs(): Promise<void> {
  const waiting = await rowsOf(
    db(),
    z.object({ id: z.coerce.number() }),
    sql`select distinct collection_id as id from images where not near_noted order by 1`,
  );
  for (const { id } of waiting) await noteCollection(id);
}
