/** Images that are new in stock, with their objects and the steps that brought them. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import { noteStockChanges } from "../../../db/stock-changes";
import type { LabelAct } from "../../labels/change-labels";

/**
 * What is said of an image once classes left out are gone: one whose every label went holds nothing that counts here.
 */
const stateAfter = sql`case when l.says then 'labeled' when i.settled_state = 'labeled' then 'empty' else i.settled_state end`;

export async function insertNew(
  tx: Transaction,
  { act, collection, revision }: LabelAct,
  deliveryId: number,
  choices: IntakeChoices,
): Promise<{ images: number; objects: number }> {
  const when = (column: string) => (choices.keepWhenAndWhere ? sql.raw(`i.${column}`) : sql`null`);
  const inserted = await tx.execute(sql`
    insert into images (collection_id, delivery_id, ordinal, sha256, name, bytes, width, height, orientation, extension, split,
      state, object_count, class_counts, image_class_ids, captions, fields, licence, taken_at, latitude, longitude,
      near_hash, near_noted, findings)
    select ${collection}, i.delivery_id, i.ordinal, i.sha256, i.path, i.bytes, i.width, i.height, i.orientation, i.extension, i.dealt,
      ${stateAfter}, l.object_count, l.class_counts, l.image_class_ids, i.captions, i.fields, i.licence,
      ${when("taken_at")}, ${when("latitude")}, ${when("longitude")}, i.near_hash, true, i.findings
    from incoming i join incoming_labels l on l.ordinal = i.ordinal where i.image_id is null
    order by i.ordinal`);
  await noteStockChanges(tx, { collection, revision }, sql`select id from images where delivery_id = ${deliveryId}`);
  const objects = await tx.execute(sql`
    insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape, mask, outline, attributes, flags)
    select m.id, o.nth - 1, o.class_id, (o.value->'box'->>0)::float8, (o.value->'box'->>1)::float8,
      (o.value->'box'->>2)::float8, (o.value->'box'->>3)::float8, (o.value->>'area')::float8,
      (o.value->'shape') - 'runs', decode(o.value->'shape'->>'runs', 'base64'), o.value->'outline', o.value->'attributes',
      o.value - '{class,shape,attributes,box,area,outline}'::text[]
    from images m join incoming_objects o on o.ordinal = m.ordinal
    where m.delivery_id = ${deliveryId} order by m.ordinal, o.nth`);
  // What takes an image's arrival back puts it into the bin.
  await tx.execute(sql`
    insert into label_steps (act_id, image_id, revision_before, steps, inverse)
    select ${act}::bigint, id, -1, '[{"do": "set-presence", "present": true}]', '[{"do": "set-presence", "present": false}]'
    from images where delivery_id = ${deliveryId}`);
  return { images: inserted.rowCount ?? 0, objects: objects.rowCount ?? 0 };
}
