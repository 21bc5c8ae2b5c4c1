/** Takes back what a delivery brought and what it changed. */
import { eq, sql } from "drizzle-orm";
import { db, type Transaction } from "../../db/database";
import { deliveries } from "../../db/schema";
import type { Delivery } from "../../db/schema";
import { recount } from "./recount";

/** What undoing a delivery would do, said before it is done. */
export type UndoWord = {
  /** Images that go. */
  images: number;
  /** Of these, how many had their labels changed after they came: the changes go with them. */
  imagesChangedSince: number;
  /** Images of other deliveries that get their former labels back. */
  restored: number;
  /** Images of other deliveries whose labels were changed again since: these stay as they are now. */
  keptAsTheyAre: number;
};

export async function undoWord(delivery: Delivery): Promise<UndoWord> {
  const { rows } = await db().execute<UndoWord>(sql`
    select (select count(*)::int from images where delivery_id = ${delivery.id}) as images,
      (select count(*)::int from images where delivery_id = ${delivery.id} and labels_at > created_at) as "imagesChangedSince",
      (select count(*)::int from label_changes c join images i on i.id = c.image_id where c.delivery_id = ${delivery.id} and i.labels_at = c.changed_at) as restored,
      (select count(*)::int from label_changes c join images i on i.id = c.image_id where c.delivery_id = ${delivery.id} and i.labels_at <> c.changed_at) as "keptAsTheyAre"`);
  return rows[0] as UndoWord;
}

/** Gives images of other deliveries the labels back that they had, unless somebody changed them since. */
async function restoreLabels(tx: Transaction, deliveryId: number): Promise<void> {
  await tx.execute(sql`
    create temp table restoring on commit drop as
    select c.image_id, c.before from label_changes c join images i on i.id = c.image_id where c.delivery_id = ${deliveryId} and i.labels_at = c.changed_at`);
  await tx.execute(sql`delete from objects o using restoring r where o.image_id = r.image_id`);
  await tx.execute(sql`
    insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape, attributes, flags)
    select r.image_id, o.ordinal, o.class_id, o.x, o.y, o.width, o.height, o.area, o.shape, o.attributes, o.flags
    from restoring r cross join lateral jsonb_to_recordset(r.before->'objects') as o(ordinal int, class_id bigint, x float8, y float8, width float8, height float8, area float8, shape jsonb, attributes jsonb, flags jsonb)`);
  await tx.execute(sql`
    update images i set state = r.before->>'state', captions = r.before->'captions', fields = r.before->'fields', labels_at = now(),
      image_class_ids = (select coalesce(array_agg(x::bigint), '{}') from jsonb_array_elements_text(r.before->'imageClassIds') x)
    from restoring r where i.id = r.image_id`);
  await recount(tx, sql`select image_id from restoring`);
}

/**
 * Removes a delivery's images, objects, label changes, and the classes that came with it and that nothing else uses.
 */
export async function takeBack(tx: Transaction, delivery: Delivery): Promise<number> {
  const { id, collectionId } = delivery;
  await tx.execute(sql`select id from collections where id = ${collectionId} for update`);
  await restoreLabels(tx, id);
  await tx.execute(
    sql`insert into blob_candidates select sha256 from images where delivery_id = ${id} union select sha256 from delivery_items where delivery_id = ${id} and sha256 is not null on conflict do nothing`,
  );
  await tx.execute(
    sql`delete from objects using images where objects.image_id = images.id and images.delivery_id = ${id}`,
  );
  const gone = await tx.execute(sql`delete from images where delivery_id = ${id}`);
  await tx.execute(sql`delete from classes k where k.collection_id = ${collectionId} and k.id in (select jsonb_array_elements_text(${JSON.stringify(delivery.newClasses)}::jsonb)::bigint)
    and not exists (select 1 from objects o where o.class_id = k.id) and not exists (select 1 from images i where i.collection_id = k.collection_id and k.id = any(i.image_class_ids))
    and not exists (select 1 from label_changes c where c.before->'imageClassIds' @> to_jsonb(k.id) or c.before->'objects' @> jsonb_build_array(jsonb_build_object('class_id', k.id)))`);
  await tx.delete(deliveries).where(eq(deliveries.id, id));
  return gone.rowCount ?? 0;
}
