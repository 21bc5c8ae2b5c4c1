/** Rows of a ledger, a page at a time. */
import type { LedgerRow } from "@larder/core/ledger/column";
import { attributeValueSchema } from "@larder/core/model/item";
import type { Selection } from "@larder/core/selection/chosen";
import type { Order } from "@larder/core/snapshot/order";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db, type Database } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { rowsOf } from "../../db/query";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";

const rowSchema = z.object({
  id: z.coerce.number(),
  name: z.string(),
  revision: z.number(),
  split: z.string().nullable(),
  classes: z.array(z.string()),
  tags: z.array(z.string()),
  captions: z.array(z.string()),
  attributes: z.record(z.string(), attributeValueSchema),
});

/** Rows of images that are in stock, in the order of their ids as they are given. */
export function ledgerRowsOf(on: Database, collection: number, ids: readonly number[]): Promise<LedgerRow[]> {
  const list = sql`${numberList(ids)}`;
  return rowsOf(
    on,
    rowSchema,
    sql`select i.id, i.name, i.revision, i.split, i.tags, i.captions, i.attributes,
        array(select k.name from classes k where k.id = any(i.image_class_ids) order by k.position, k.id) as classes
      from images i where i.id = any(${list}) and i.collection_id = ${collection} and i.removed_at is null
      order by array_position(${list}, i.id)`,
  );
}

/** A page of the ledger of what matches; `start` from 0. */
export async function ledgerPage(
  actor: Actor,
  collection: number,
  selection: Selection,
  page: { start: number; limit: number; order?: Order },
): Promise<{ rows: LedgerRow[] }> {
  await allow(actor, "see", { collection });
  const { ids } = await ask("page", collection, { selection, ...page });
  return { rows: await ledgerRowsOf(db(), collection, ids) };
}
