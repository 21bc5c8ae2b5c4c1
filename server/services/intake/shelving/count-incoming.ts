/** How many of a delivery's pictures are new, there already, or left out. */
import { sql } from "drizzle-orm";
import { z } from "zod";
import type { Transaction } from "../../../db/database";
import { rowOf } from "../../../db/query";

const countsSchema = z.object({
  leftOut: z.number(),
  there: z.number(),
  again: z.number(),
  contradicting: z.number(),
});

/**
 * Counts of what `gatherIncoming` gathered: pictures `there` in stock already, repeated `again` within the delivery, and
 * `contradicting` ones that come twice with different classes.
 */
export async function countIncoming(tx: Transaction, deliveryId: number): Promise<z.infer<typeof countsSchema>> {
  const counts = await rowOf(
    tx,
    countsSchema,
    sql`
    with ready as (select sha256, item->'classes' as classes from delivery_items
      where delivery_id = ${deliveryId} and sha256 is not null and not left_out)
    select
      (select count(*)::int from delivery_items where delivery_id = ${deliveryId} and left_out) as "leftOut",
      (select count(*)::int from incoming where image_id is not null) as there,
      (select count(*)::int from ready) - (select count(*)::int from incoming) as again,
      (select count(*)::int from (select 1 from ready where jsonb_array_length(classes) > 0
        group by sha256 having count(distinct classes::text) > 1) c) as contradicting`,
  );
  return counts ?? { leftOut: 0, there: 0, again: 0, contradicting: 0 };
}
