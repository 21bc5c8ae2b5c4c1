/** The rows of a delivery that are shelved, as temporary tables that last as long as the transaction. */
import { sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";

/**
 * The rows to shelve with where each image is already, and their labels under the collection's classes, as temporary
 * tables.
 */
export async function gatherIncoming(tx: Transaction, deliveryId: number, collectionId: number): Promise<void> {
  await tx.execute(sql`
    create temp table incoming on commit drop as
    select distinct on (d.sha256) d.delivery_id, d.ordinal, d.path, d.sha256, d.bytes, d.width, d.height, d.orientation, d.extension,
      d.split, d.settled_state, d.near_hash, d.taken_at, d.latitude, d.longitude, d.link,
      d.item->'classes' as classes, d.item->'captions' as captions, d.item->'fields' as fields, nullif(d.item->'licence', 'null') as licence,
      array(select distinct f.value->>'code' from jsonb_array_elements(d.findings) f order by 1) as findings,
      i.id as image_id, i.state as state_there, null::text as dealt
    from delivery_items d left join images i on i.collection_id = ${collectionId} and i.sha256 = d.sha256 and i.removed_at is null
    where d.delivery_id = ${deliveryId} and d.ready and not d.left_out and d.sha256 is not null
    order by d.sha256, d.ordinal`);
  await tx.execute(sql`
    create temp table incoming_objects on commit drop as
    select i.ordinal, o.nth, m.class_id, o.value from incoming i
    join delivery_items d on d.delivery_id = i.delivery_id and d.ordinal = i.ordinal
    cross join lateral jsonb_array_elements(d.objects) with ordinality as o(value, nth)
    join incoming_classes m on m.name = o.value->>'class' where m.class_id is not null`);
  await tx.execute(sql`
    create temp table incoming_labels on commit drop as
    select i.ordinal, coalesce(o.count, 0)::int as object_count, coalesce(o.counts, '{}') as class_counts, coalesce(c.ids, '{}') as image_class_ids,
      coalesce(o.count, 0) > 0 or c.ids is not null or jsonb_array_length(i.captions) > 0 or i.fields <> '{}' as says
    from incoming i
    left join (
      select ordinal, sum(n) as count, jsonb_object_agg(class_id::text, n) as counts
      from (select ordinal, class_id, count(*) as n from incoming_objects group by 1, 2) n group by 1) o on o.ordinal = i.ordinal
    left join (
      select i.ordinal, array_agg(distinct m.class_id) as ids
      from incoming i cross join lateral jsonb_array_elements_text(i.classes) as k(name)
      join incoming_classes m on m.name = k.name where m.class_id is not null group by 1) c on c.ordinal = i.ordinal`);
  await tx.execute(sql`create index on incoming_objects (ordinal)`);
  await tx.execute(sql`create index on incoming_labels (ordinal)`);
  await tx.execute(sql`analyze incoming`);
  // Statistics of the labels themselves would take longer than they save.
  await tx.execute(sql`analyze incoming_objects (ordinal, class_id)`);
  await tx.execute(sql`analyze incoming_labels`);
}
