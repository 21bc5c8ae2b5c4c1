import type { LabelState, Split } from "@larder/core/model/item";
import type { StockRow } from "@larder/core/plans/flow";
import { sql } from "drizzle-orm";
import { db } from "../db/database";

/** A collection's class names in their order, by id. */
export async function classNames(collectionId: number): Promise<Map<number, string>> {
  const { rows } = await db().execute<{ id: number; name: string }>(
    sql`select id::int, name from classes where collection_id = ${collectionId} order by position, id`,
  );
  return new Map(rows.map((row) => [row.id, row.name]));
}

/** The light rows of a stock, as counting and dealing need them. */
export async function stockRows(collectionId: number): Promise<{ rows: StockRow[]; names: string[] }> {
  const names = await classNames(collectionId);
  const { rows } = await db().execute<{
    sha256: string;
    delivery_id: number;
    split: Split | null;
    state: LabelState;
    class_counts: Record<string, number>;
    image_class_ids: number[];
  }>(
    sql`select sha256, delivery_id::int, split, state, class_counts, image_class_ids::int[] from images where collection_id = ${collectionId} order by sha256 collate "C"`,
  );
  const nameOf = (id: number | string) => names.get(Number(id)) ?? "";
  return {
    names: [...names.values()],
    rows: rows.map((row) => ({
      key: row.sha256,
      delivery: row.delivery_id,
      split: row.split,
      state: row.state,
      objects: new Map(Object.entries(row.class_counts).map(([id, count]) => [nameOf(id), count])),
      classes: row.image_class_ids.map(nameOf),
    })),
  };
}
