/** A large stock made by the database alone: images without pixels, each with objects of its own. */
import { sql } from "drizzle-orm";
import { z } from "zod";
import { transaction } from "../db/database";
import { numberOf, rowsOf } from "../db/query";
import { noteStockChanges } from "../db/stock-changes";
import { changed } from "../jobs/events";
import { localActor } from "../services/actor";
import { ensureClasses } from "../services/classes/ensure-classes";
import { createCollection } from "../services/collections";

export type LargeStock = { collection: number; delivery: number };

/** Fills a new collection with `count` images of `objectsEach` objects, in twelve classes, dealt to the splits. */
export async function largeStock(name: string, count: number, objectsEach: number): Promise<LargeStock> {
  const { id: collection } = await createCollection(localActor, { name });
  return transaction(async (tx) => {
    const revision = await changed(tx, collection, "stock");
    const names = Array.from({ length: 12 }, (_, n) => ({ name: `bread ${n}` }));
    const { ids } = await ensureClasses(tx, collection, names);
    const first = Math.min(...ids.values());
    const delivery = await numberOf(
      tx,
      sql`insert into deliveries (collection_id, name, source, status, created_by, facts)
        values (${collection}, 'Large', 'made up', 'taken', 'local', '{"source": "made up", "licence": "CC0", "camera": "none", "takenFrom": "2026-11-01"}') returning id as n`,
    );
    // Which class the k-th object of the n-th image has: spread unevenly, as breads are.
    const classOf = sql`(${first}::bigint + ((n * 7 + k * k) % 12))`;
    await tx.execute(sql`
      insert into images (collection_id, delivery_id, ordinal, sha256, name, bytes, width, height, extension, split, state, tags, near_noted,
        object_count, class_counts)
      select ${collection}, ${delivery}, n, encode(sha256(${name}::bytea || int4send(n)), 'hex'), 'racks/rack_' || n || '.jpg', 250000, 1280, 960, 'jpg',
        (array['train', 'train', 'train', 'val', 'test', null])[1 + n % 6], case when ${objectsEach}::int = 0 then 'unlabeled' else 'labeled' end,
        case when n % 10 = 0 then array['night'] else '{}'::text[] end, true, ${objectsEach}::int,
        coalesce((select jsonb_object_agg(class, number) from (select ${classOf} as class, count(*) as number from generate_series(1, ${objectsEach}::int) k group by 1) c), '{}')
      from generate_series(1, ${count}::int) n`);
    await noteStockChanges(
      tx,
      { collection, revision },
      sql`select id from images where collection_id = ${collection}`,
    );
    if (objectsEach > 0)
      await tx.execute(sql`
        insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape)
        select i.id, k - 1, ${sql.raw(`(${first} + ((i.ordinal * 7 + k * k) % 12))`)}, (k * 97) % 1200, (k * 53) % 900, 60, 40, 2400,
          jsonb_build_object('kind', 'box', 'x', (k * 97) % 1200, 'y', (k * 53) % 900, 'width', 60, 'height', 40)
        from images i cross join generate_series(1, ${objectsEach}::int) k where i.collection_id = ${collection}`);
    return { collection, delivery };
  });
}

/** What the planner knows of tables that were just filled. */
export async function analyze(): Promise<void> {
  await transaction(async (tx) => {
    for (const table of ["images", "objects", "classes", "label_steps", "acts", "stock_changes"])
      await tx.execute(sql.raw(`analyze ${table}`));
  });
}

const planSchema = z.object({ "QUERY PLAN": z.string() });

/** How the database would go about a query. */
export async function planOf(query: ReturnType<typeof sql>): Promise<string> {
  return transaction(async (tx) =>
    (await rowsOf(tx, planSchema, sql`explain ${query}`)).map((row) => row["QUERY PLAN"]).join("\n"),
  );
}
