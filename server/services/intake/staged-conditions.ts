/** What is asked of staged rows, as SQL on `delivery_items`. */
import { sql } from "drizzle-orm";

export const sameBytes = (collectionId: number) =>
  sql`sha256 is not null and exists (select 1 from images i where i.collection_id = ${collectionId} and i.sha256 = delivery_items.sha256 and i.removed_at is null)`;
/** The same bytes stand in the delivery more than once. */
export const repeated = sql`sha256 is not null and exists (select 1 from delivery_items o
  where o.delivery_id = delivery_items.delivery_id and o.sha256 = delivery_items.sha256 and o.ordinal <> delivery_items.ordinal)`;
export const nearCopy = sql`(near_ordinal is not null or near_image is not null)`;
export const state = sql`coalesce(settled_state, state)`;
/** Being empty or unlabeled is a state with a filter of its own. */
export const worthALook = sql`(unreadable is not null or exists (select 1 from jsonb_array_elements(findings) f where f->>'code' not in ('image-empty', 'image-unlabeled')))`;
