/** How the database goes about what is asked often, with 100,000 images in stock: by an index, never through all rows. */
import { sql, type SQL } from "drizzle-orm";
import { beforeAll, describe, expect, it } from "vitest";
import { z } from "zod";
import { objectColumns } from "../services/labels/load-labels";
import { stepsSince } from "../services/labels/undo-steps";
import { selectionSql } from "../services/stock/selection-sql";
import { analyze, largeStock, planOf } from "../tests/large-stock";
import { where, wholeStock } from "../tests/bakery";
import { db } from "./database";
import { numberList } from "./array-literal";
import { rowsOf } from "./query";

let collection: number;
let other: number;
let few: number;
let ids: number[];
beforeAll(async () => {
  ({ collection } = await largeStock("Large", 100_000, 2));
  ({ collection: other } = await largeStock("Beside it", 30_000, 1));
  ({ collection: few } = await largeStock("A few", 300, 1));
  await db().execute(sql`
    with act as (insert into acts (collection_id, kind, text, actor) values (${collection}, 'tag', 'x', 'local') returning id)
    insert into label_steps (act_id, image_id, revision_before, steps, inverse)
    select act.id, i.id, 0, '[]', '[]' from images i, act where i.collection_id = ${collection}`);
  await db().execute(sql`
    insert into stock_changes (collection_id, revision, image_ids)
    select ${collection}, 10 + n, array[n] from generate_series(1, 20000) n`);
  await analyze();
  const rows = await rowsOf(
    db(),
    z.object({ id: z.coerce.number() }),
    sql`select id from images where collection_id = ${collection} order by id limit 60 offset 50000`,
  );
  ids = rows.map(({ id }) => id);
});

const none = { image: [], object: [] };
const someIds = () => sql`any(${numberList(ids)})`;
const hash = "a".repeat(64);

const batch = (text: string) =>
  sql`select i.id from images i where ${selectionSql(collection, where(text), none)} and i.id > ${ids[0]} order by i.id limit 1000`;

/** Queries by what they are for; each has to go by an index, and none may sort what an index holds in order. */
const queries: Record<string, () => SQL> = {
  "a page of images by their ids": () =>
    sql`select i.id, i.name from images i where i.id = ${someIds()} and i.removed_at is null order by i.id`,
  "the outlines of a page": () =>
    sql`select o.image_id, jsonb_agg(jsonb_build_array(o.class_id, coalesce(o.outline, o.shape)) order by o.ordinal, o.uid) from objects o where o.image_id = ${someIds()} group by o.image_id`,
  "the rows of a ledger by their ids": () =>
    sql`select i.id, i.revision, i.attributes from images i where i.id = ${someIds()} and i.collection_id = ${collection} and i.removed_at is null`,
  "the objects of a page of cut-outs": () => sql`select id, uid from objects where id = ${someIds()}`,
  "what is not learned yet": () =>
    sql`select i.id from images i where not i.learned and i.removed_at is null order by i.collection_id, i.id limit 100`,
  "the features that came since": () =>
    sql`select f.image_id from image_features f where f.collection_id = ${collection} and f.made > 1000000 order by f.made`,
  "the next page of the bin": () =>
    sql`select id from images where collection_id = ${collection} and removed_at is not null and (removed_at, id) < (now(), 5) order by removed_at desc, id desc limit 100`,
  "the objects of a page": () =>
    sql`select ${objectColumns} from objects o where o.image_id = ${someIds()} order by o.image_id, o.ordinal, o.uid`,
  "what changed since a revision": () =>
    sql`select unnest(image_ids) from stock_changes where collection_id = ${collection} and revision > 20000`,
  "the next batch of an act on everything": () =>
    sql`select i.id from images i where ${selectionSql(collection, wholeStock, none)} and i.id > ${ids[0]} order by i.id limit 1000`,
  "the next batch of an act on a selection": () =>
    batch('has {"bread 3", "bread 5"} and split = train and not tag = night'),
  "the next batch of an act on what its objects measure": () => batch('has "bread 3" (share < 1%, x > 0.5)'),
  "the next batch of an undo": () =>
    sql`select image_id from label_steps i where i.act_id = 7 and i.image_id > 100 order by i.image_id limit 1000`,
  "what takes a batch of an act back": () => stepsSince(7, ids),
  "the next page of a build, by hash": () =>
    sql`select i.id, i.sha256 from images i where i.collection_id = ${collection} and i.removed_at is null and i.sha256 > ${hash} order by i.sha256 limit 400`,
  "whether bytes are in a collection's stock": () =>
    sql`select i.id from images i where i.collection_id = ${collection} and i.sha256 = ${hash} and i.removed_at is null`,
  "whether any image needs bytes": () => sql`select 1 from images t where t.sha256 = ${hash}`,
  "the strip of a shelf": () =>
    sql`select id from images i where i.collection_id = ${other} and i.removed_at is null and i.state <> 'empty' order by i.sha256 limit 12`,
  "what has lain in the bin for long": () =>
    sql`select id from images where collection_id = ${collection} and removed_at <= now() order by id limit 500`,
  "the history of an image": () =>
    sql`select s.steps from label_steps s where s.image_id = ${ids[0]} order by s.revision_before desc`,
  "what a class that goes is looked for in": () =>
    sql`select 1 from images i cross join lateral (select from objects o where o.image_id = i.id and o.class_id = -1 offset 0) o
      where i.collection_id = ${few} and i.class_counts ? '-1'`,
  "what a delivery that goes takes along": () => sql`select 1 from images where delivery_id = -1`,
  "an object by its uid": () => sql`delete from objects where uid = '01900000-0000-7000-8000-000000000001'`,
};

describe("with 100,000 images", () => {
  it.each(Object.keys(queries))("%s is found by an index", async (name) => {
    const plan = await planOf((queries[name] as () => SQL)());
    expect(plan).toMatch(/Index|Bitmap/);
    expect(plan).not.toMatch(/Seq Scan on (images|objects|label_steps|stock_changes)/);
  });
  it("what takes a batch of an act back is read from its first image to its last, also of an act just made", async () => {
    for (const act of [7, 1_000_000])
      expect(await planOf(stepsSince(act, ids))).toMatch(/Index Cond: .*act_id = .* AND \(image_id >= .*image_id <= /);
  });
  it.each(["the next batch of an act on everything", "the next page of a build, by hash", "the strip of a shelf"])(
    "%s needs no sorting",
    async (name) => {
      expect(await planOf((queries[name] as () => SQL)())).not.toMatch(/Sort/);
    },
  );
});
