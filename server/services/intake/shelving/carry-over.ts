/** What no delivery can say of a picture, and another collection can: its tags and the attributes of the whole image. */
import { sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import type { Delivery } from "../../../db/schema";

/**
 * Gives the new images of a delivery that came from another collection with its labels the tags and attributes that
 * they have there, and this collection the columns of that one that it has not.
 */
export async function carryOver(tx: Transaction, { id, collectionId, origin }: Delivery): Promise<void> {
  if (origin.kind !== "collection" || !origin.labels) return;
  await tx.execute(sql`
    update images n set tags = s.tags, attributes = s.attributes from images s
    where n.delivery_id = ${id} and s.collection_id = ${origin.collection} and s.sha256 = n.sha256 and s.removed_at is null
      and (s.tags <> '{}' or s.attributes <> '{}')`);
  await tx.execute(sql`
    update collections c set image_attributes = c.image_attributes || more.list
    from (
      select jsonb_agg(a.value) as list from collections s cross join jsonb_array_elements(s.image_attributes) a
      where s.id = ${origin.collection} and not exists (
        select 1 from collections t cross join jsonb_array_elements(t.image_attributes) b
        where t.id = ${collectionId} and b.value->>'name' = a.value->>'name')) more
    where c.id = ${collectionId} and more.list is not null`);
}
