import type { DeliveryFacts } from "@larder/core/intake/facts";
import { Failure } from "@larder/core/model/failure";
import { labelStates, splitNames, splitSchema, type LabeledObject } from "@larder/core/model/item";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { announce } from "../jobs/events";
import { mustEdit, type Actor } from "./actor";

const several = <T extends z.ZodType>(entry: T) => z.array(entry).default([]);

/** Filters of the stock as they stand in the address. Entries of one kind widen, kinds narrow each other. */
export const stockFilterSchema = z.object({
  class: several(z.string()),
  split: several(z.enum([...splitNames, "none"])),
  state: several(z.enum(labelStates)),
  delivery: several(z.coerce.number().int()),
  objects: several(z.coerce.number().int().min(0)),
  source: several(z.string()),
  licence: several(z.string()),
  camera: several(z.string()),
  place: several(z.string()),
  day: several(z.string()),
});
export type StockFilter = z.infer<typeof stockFilterSchema>;
type Dimension = keyof StockFilter;

/** Objects an image are shown in bins: 0, 1, 2, … and everything from this number on together. */
export const objectBins = 15;

const list = (values: readonly (string | number)[]) =>
  sql.join(
    values.map((value) => sql`${value}`),
    sql`, `,
  );

/** What is known of the delivery an image came with; "" where it is not. */
const fact = (name: "source" | "licence" | "camera") =>
  sql`coalesce((select d.facts->>${sql.raw(`'${name}'`)} from deliveries d where d.id = i.delivery_id), '')`;
/** The day an image was taken: as its own file tells, else as was written down for its delivery. */
const dayTaken = sql`coalesce(to_char(i.taken_at, 'YYYY-MM-DD'), (select d.facts->>'takenFrom' from deliveries d where d.id = i.delivery_id), '')`;

const degrees = (value: SQL) => sql`to_char(${value}, 'FM990.00')`;
/**
 * Where an image was taken, to a hundredth of a degree (about a kilometre): as its own file tells, else as was written
 * down for its delivery.
 */
const placeTaken = sql`coalesce(${degrees(sql`i.latitude`)} || ' ' || ${degrees(sql`i.longitude`)}, (select ${degrees(sql`(d.facts->>'latitude')::float8`)} || ' ' || ${degrees(sql`(d.facts->>'longitude')::float8`)} from deliveries d where d.id = i.delivery_id), '')`;

const conditions: { [D in Dimension]: (values: StockFilter[D]) => SQL } = {
  class: (names) =>
    sql`i.class_ids && (select coalesce(array_agg(k.id), '{}') from classes k where k.collection_id = i.collection_id and k.name in (${list(names)}))`,
  split: (splits) => sql`coalesce(i.split, 'none') in (${list(splits)})`,
  state: (states) => sql`i.state in (${list(states)})`,
  delivery: (ids) => sql`i.delivery_id in (${list(ids)})`,
  objects: (bins) => sql`least(i.object_count, ${objectBins}) in (${list(bins)})`,
  source: (names) => sql`${fact("source")} in (${list(names)})`,
  licence: (names) => sql`${fact("licence")} in (${list(names)})`,
  camera: (names) => sql`${fact("camera")} in (${list(names)})`,
  place: (places) => sql`${placeTaken} in (${list(places)})`,
  day: (days) => sql`${dayTaken} in (${list(days)})`,
};

function where(collectionId: number, filter: StockFilter, except?: Dimension): SQL {
  const parts: SQL[] = [sql`i.collection_id = ${collectionId}`];
  for (const dimension of Object.keys(conditions) as Dimension[]) {
    const values = filter[dimension];
    if (dimension === except || values.length === 0) continue;
    parts.push((conditions[dimension] as (values: StockFilter[Dimension]) => SQL)(values));
  }
  return sql.join(parts, sql` and `);
}

export type StockImage = {
  id: number;
  name: string;
  sha256: string;
  width: number;
  height: number;
  split: string | null;
  state: string;
  objects: { classId: number; shape: LabeledObject["shape"] }[];
  imageClassIds: number[];
};

/** A page of the stock in the order things came in, with shapes to draw. */
export async function stockPage(
  _actor: Actor,
  collectionId: number,
  filter: StockFilter,
  page: { offset: number; limit: number },
): Promise<{ images: StockImage[] }> {
  const { rows } = await db().execute<StockImage>(sql`
    select i.id::int, i.name, i.sha256, i.width, i.height, i.split, i.state, i.image_class_ids::int[] as "imageClassIds",
      coalesce((select jsonb_agg(jsonb_build_object('classId', o.class_id, 'shape', o.shape) order by o.ordinal) from objects o where o.image_id = i.id), '[]') as objects
    from images i where ${where(collectionId, filter)} order by i.id offset ${page.offset} limit ${page.limit}`);
  return { images: rows };
}

/** What may be known of images through their deliveries or files, in the order it is shown. */
export const knownFacts = ["source", "licence", "camera", "place", "day"] as const;
export type KnownFact = (typeof knownFacts)[number];
const factOf: Record<KnownFact, SQL> = {
  source: fact("source"),
  licence: fact("licence"),
  camera: fact("camera"),
  place: placeTaken,
  day: dayTaken,
};
/** Images by what one fact says of them; "" stands for what is not said. */
export type FactCount = { key: string; count: number };

export type Facets = {
  total: number;
  matching: number;
  matchingObjects: number;
  class: { name: string; colour: number; code: string; count: number }[];
  split: Record<string, number>;
  state: Record<string, number>;
  delivery: { id: number; name: string; count: number }[];
  objects: number[];
} & Record<KnownFact, FactCount[]>;

/**
 * The values of one fact and how many images have each, under all filters but its own; empty where nothing is known.
 */
async function known(collectionId: number, filter: StockFilter, dimension: KnownFact): Promise<FactCount[]> {
  const of = factOf[dimension];
  const { rows } = await db().execute<FactCount>(sql`
    select a.key, coalesce(n.count, 0)::int as count from (select distinct ${of} as key from images i where i.collection_id = ${collectionId}) a
    left join (select ${of} as key, count(*) as count from images i where ${where(collectionId, filter, dimension)} group by 1) n on n.key = a.key order by a.key = '', a.key`);
  return rows.some(({ key }) => key !== "") ? rows : [];
}

/** The histograms over the stock. Each counts what matches all filters but its own. */
export async function facets(_actor: Actor, collectionId: number, filter: StockFilter): Promise<Facets> {
  const [totals, byClass, bySplit, byState, byDelivery, byObjects, byFact] = await Promise.all([
    db().execute<{ total: number; matching: number; objects: number }>(sql`
      select count(*)::int as total, count(*) filter (where ${where(collectionId, filter)})::int as matching,
        coalesce(sum(object_count) filter (where ${where(collectionId, filter)}), 0)::int as objects from images i where i.collection_id = ${collectionId}`),
    db().execute<{ name: string; colour: number; code: string; count: number }>(sql`
      select k.name, k.colour, k.code, coalesce(n.count, 0)::int as count from classes k
      left join (select unnest(i.class_ids) as id, count(*) as count from images i where ${where(collectionId, filter, "class")} group by 1) n on n.id = k.id
      where k.collection_id = ${collectionId} order by k.position, k.id`),
    db().execute<{ key: string; count: number }>(
      sql`select coalesce(i.split, 'none') as key, count(*)::int as count from images i where ${where(collectionId, filter, "split")} group by 1`,
    ),
    db().execute<{ key: string; count: number }>(
      sql`select i.state as key, count(*)::int as count from images i where ${where(collectionId, filter, "state")} group by 1`,
    ),
    db().execute<{ id: number; name: string; count: number }>(sql`
      select d.id::int, d.name, coalesce(n.count, 0)::int as count from deliveries d
      left join (select i.delivery_id as id, count(*) as count from images i where ${where(collectionId, filter, "delivery")} group by 1) n on n.id = d.id
      where d.collection_id = ${collectionId} and d.status = 'taken' order by d.id`),
    db().execute<{ bin: number; count: number }>(
      sql`select least(i.object_count, ${objectBins}) as bin, count(*)::int as count from images i where ${where(collectionId, filter, "objects")} group by 1`,
    ),
    Promise.all(knownFacts.map(async (name) => [name, await known(collectionId, filter, name)] as const)),
  ]);
  const keyed = (rows: { key: string; count: number }[], keys: readonly string[]) =>
    Object.fromEntries(keys.map((key) => [key, rows.find((row) => row.key === key)?.count ?? 0]));
  const bins = Array.from(
    { length: objectBins + 1 },
    (_, bin) => byObjects.rows.find((row) => row.bin === bin)?.count ?? 0,
  );
  return {
    total: totals.rows[0]?.total ?? 0,
    matching: totals.rows[0]?.matching ?? 0,
    matchingObjects: totals.rows[0]?.objects ?? 0,
    class: byClass.rows,
    split: keyed(bySplit.rows, [...splitNames, "none"]),
    state: keyed(byState.rows, labelStates),
    delivery: byDelivery.rows,
    objects: bins,
    ...(Object.fromEntries(byFact) as Record<KnownFact, FactCount[]>),
  };
}

export type ImageDetail = StockImage & {
  bytes: number;
  orientation: number;
  delivery: { id: number; name: string; facts: DeliveryFacts | null };
  takenAt: string | null;
  latitude: number | null;
  longitude: number | null;
  /** Where the picture stays that is kept as a link. */
  link: string | null;
  captions: string[];
  fields: Record<string, string | string[]>;
  before: number | null;
  after: number | null;
  place: number;
  details: {
    id: number;
    classId: number;
    shape: LabeledObject["shape"];
    attributes: Record<string, unknown> | null;
    flags: Record<string, unknown>;
    area: number;
    x: number;
    y: number;
    width: number;
    height: number;
  }[];
};

/** One image with everything known of it, and its neighbours among what matches the filter. */
export async function imageDetail(
  _actor: Actor,
  collectionId: number,
  id: number,
  filter: StockFilter,
): Promise<ImageDetail> {
  const { rows } = await db().execute<ImageDetail>(sql`
    select i.id::int, i.name, i.sha256, i.width, i.height, i.split, i.state, i.bytes::int, i.orientation, i.captions, i.fields, i.image_class_ids::int[] as "imageClassIds",
      jsonb_build_object('id', d.id, 'name', d.name, 'facts', d.facts) as delivery,
      to_char(i.taken_at, 'YYYY-MM-DD HH24:MI:SS') as "takenAt", i.latitude, i.longitude, (select l.url from links l where l.sha256 = i.sha256) as link, '[]'::jsonb as objects,
      (select min(i2.id)::int from images i2 where i2.id in (select i.id from images i where ${where(collectionId, filter)} and i.id > ${id})) as after,
      (select max(i2.id)::int from images i2 where i2.id in (select i.id from images i where ${where(collectionId, filter)} and i.id < ${id})) as before,
      (select count(*)::int + 1 from images i where ${where(collectionId, filter)} and i.id < ${id}) as place,
      coalesce((select jsonb_agg(jsonb_build_object('id', o.id, 'classId', o.class_id, 'shape', o.shape, 'attributes', o.attributes, 'flags', o.flags, 'area', o.area, 'x', o.x, 'y', o.y, 'width', o.width, 'height', o.height) order by o.ordinal) from objects o where o.image_id = i.id), '[]') as details
    from images i join deliveries d on d.id = i.delivery_id where i.id = ${id} and i.collection_id = ${collectionId}`);
  if (!rows[0]) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  return rows[0];
}

/** The hash of an image's bytes and their kind, for serving them. */
export async function imageBytes(
  _actor: Actor,
  id: number,
): Promise<{ sha256: string; extension: string; orientation: number; name: string }> {
  const { rows } = await db().execute<{ sha256: string; extension: string; orientation: number; name: string }>(
    sql`select sha256, extension, orientation, name from images where id = ${id}`,
  );
  if (!rows[0]) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  return rows[0];
}

export const moveSchema = z.object({
  ids: z.array(z.number().int()).min(1).max(200_000),
  split: splitSchema.nullable(),
});

/** Moves images to a split and returns where each was before, by split, so that it can be undone. */
export async function moveToSplit(
  actor: Actor,
  collectionId: number,
  input: z.infer<typeof moveSchema>,
): Promise<{ moved: number; before: { split: string | null; ids: number[] }[] }> {
  mustEdit(actor);
  const { rows } = await db().execute<{ id: number; split: string | null }>(sql`
    with old as (select id, split from images where collection_id = ${collectionId} and id = any(${sql.param(input.ids)}::bigint[]) for update)
    update images i set split = ${input.split} from old where i.id = old.id and i.split is distinct from ${input.split} returning i.id::int, old.split`);
  const before = [...new Set(rows.map((row) => row.split))].map((split) => ({
    split,
    ids: rows.filter((row) => row.split === split).map((row) => row.id),
  }));
  await announce({ kind: "collection", collection: collectionId });
  return { moved: rows.length, before };
}

/** The ids of everything that matches, for "take all". */
export async function matchingIds(_actor: Actor, collectionId: number, filter: StockFilter): Promise<number[]> {
  const { rows } = await db().execute<{ id: number }>(
    sql`select i.id::int from images i where ${where(collectionId, filter)} order by i.id`,
  );
  return rows.map((row) => row.id);
}
