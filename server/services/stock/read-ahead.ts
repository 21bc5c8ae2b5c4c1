import { selectionSchema } from "@larder/core/selection/chosen";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { rowsOf } from "../../db/query";
import { may } from "../access";
import type { Actor } from "../actor";
import { facets } from "../stock";

const lastSchema = z.object({ collection: z.coerce.number() });

/**
 * Reads the stock that was worked on last, as soon as Larder is there: whoever opens it first need not wait for its columns
 * and features. Returns its collection; null where there is none.
 */
export async function readStockAhead(actor: Actor): Promise<number | null> {
  const [last] = await rowsOf(
    db(),
    lastSchema,
    sql`select a.collection_id as collection from acts a join collections c on c.id = a.collection_id
      where c.archived_at is null and c.deleting_at is null order by a.id desc limit 1`,
  );
  if (!last || !may(actor, "see", last.collection)) return null;
  await facets(actor, last.collection, selectionSchema.parse({}));
  return last.collection;
}
