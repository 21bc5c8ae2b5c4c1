import { sql, type SQL } from "drizzle-orm";
import type { Transaction } from "../../db/database";

/**
 * Computes an image's counts anew from its objects and image-level classes, for the images whose ids `which` selects.
 */
export async function recount(tx: Transaction, which: SQL): Promise<void> {
  await tx.execute(sql`
    update images m set object_count = coalesce(n.count, 0), class_counts = coalesce(n.counts, '{}'),
      class_ids = (select coalesce(array_agg(distinct x), '{}') from unnest(m.image_class_ids || coalesce(n.ids, '{}')) x)
    from images w
    left join (select image_id, sum(n)::int as count, jsonb_object_agg(class_id::text, n) as counts, array_agg(class_id) as ids
      from (select o.image_id, o.class_id, count(*) as n from objects o where o.image_id in (${which}) group by 1, 2) g group by 1) n on n.image_id = w.id
    where m.id = w.id and w.id in (${which})`);
}
