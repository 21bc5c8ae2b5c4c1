/**
 * Which images of a collection changed at which of its revisions, a row a statement with all of their ids: what a snapshot
 * catches up by. An index on the images themselves would have to be written anew with each change of each of them.
 */
import { sql, type SQL } from "drizzle-orm";
import type pg from "pg";
import { z } from "zod";
import type { Transaction } from "./database";

/** Notes that images changed, or came; `images` is a query that gives their `id`. */
export async function noteStockChanges(
  tx: Transaction,
  { collection, revision }: { collection: number; revision: number },
  images: SQL,
): Promise<void> {
  await tx.execute(sql`
    insert into stock_changes (collection_id, revision, image_ids)
    select ${collection}::bigint, ${revision}::bigint, array_agg(c.id order by c.id) from (${images}) c having count(*) > 0`);
}

const since = "from stock_changes where collection_id = $1 and revision > $2";
const countSchema = z.object({ n: z.coerce.number() });
const idSchema = z.object({ id: z.number() });

/** Ids of the images that changed after a revision, in ascending order; null where more than `most` changes are noted. */
export async function changedSince(
  client: pg.ClientBase,
  collection: number,
  revision: number,
  most: number,
): Promise<number[] | null> {
  const counted = await client.query(`select coalesce(sum(cardinality(image_ids)), 0) as n ${since}`, [
    collection,
    revision,
  ]);
  if (countSchema.parse(counted.rows[0]).n > most) return null;
  const { rows } = await client.query(
    `select distinct c.id from (select unnest(image_ids) as id ${since}) c order by c.id`,
    [collection, revision],
  );
  return z
    .array(idSchema)
    .parse(rows)
    .map(({ id }) => id);
}
