/** A selection of images as SQL, for acts; the snapshot answers the same for counts (core/snapshot). */
import {
  objectBins,
  stockDimensions,
  type Selection,
  type StockDimension,
  type StockFilter,
} from "@larder/core/stock/filter";
import { sql, type SQL } from "drizzle-orm";

/** What is known of the delivery an image came with; "" where it is not. */
const fact = (name: "source" | "licence" | "camera") =>
  sql`coalesce((select d.facts->>${sql.raw(`'${name}'`)} from deliveries d where d.id = i.delivery_id), '')`;

/** The day an image was taken: as its own file tells, else as was written down for its delivery. */
export const dayTaken = sql`coalesce(to_char(i.taken_at, 'YYYY-MM-DD'), (select d.facts->>'takenFrom' from deliveries d where d.id = i.delivery_id), '')`;

const degrees = (value: SQL) => sql`to_char(${value}, 'FM990.00')`;

/**
 * Where an image was taken, to a hundredth of a degree (about a kilometre): as its own file tells, else as was written
 * down for its delivery.
 */
export const placeTaken = sql`coalesce(${degrees(sql`i.latitude`)} || ' ' || ${degrees(sql`i.longitude`)},
  (select ${degrees(sql`(d.facts->>'latitude')::float8`)} || ' ' || ${degrees(sql`(d.facts->>'longitude')::float8`)} from deliveries d where d.id = i.delivery_id), '')`;

const oneOf = (value: SQL, values: readonly string[]) => sql`${value} = any(${sql.param([...values])}::text[])`;

const conditions: { [D in StockDimension]: (values: StockFilter[D]) => SQL } = {
  class: (names) =>
    sql`i.class_ids && (select coalesce(array_agg(k.id), '{}') from classes k where k.collection_id = i.collection_id and ${oneOf(sql`k.name`, names)})`,
  split: (splits) => oneOf(sql`coalesce(i.split, 'none')`, splits),
  state: (states) => oneOf(sql`i.state`, states),
  delivery: (ids) => sql`i.delivery_id = any(${sql.param(ids)}::bigint[])`,
  tag: (tags) => sql`i.tags && ${sql.param([...tags])}::text[]`,
  objects: (bins) => sql`least(i.object_count, ${objectBins}) = any(${sql.param(bins)}::int[])`,
  source: (names) => oneOf(fact("source"), names),
  licence: (names) => oneOf(fact("licence"), names),
  camera: (names) => oneOf(fact("camera"), names),
  place: (places) => oneOf(placeTaken, places),
  day: (days) => oneOf(dayTaken, days),
  image: (ids) => sql`i.id = any(${sql.param(ids)}::bigint[])`,
};

/** The images of a collection that a selection means, as a condition on `images i`: those in stock, or those in the bin. */
export function selectionSql(collection: number, { where, except }: Selection, from: "stock" | "bin" = "stock"): SQL {
  const parts = [
    sql`i.collection_id = ${collection}`,
    from === "stock" ? sql`i.removed_at is null` : sql`i.removed_at is not null`,
  ];
  for (const dimension of stockDimensions) {
    const values = where[dimension];
    if (values.length > 0) parts.push((conditions[dimension] as (values: StockFilter[StockDimension]) => SQL)(values));
  }
  if (except.length > 0) parts.push(sql`not i.id = any(${sql.param(except)}::bigint[])`);
  return sql.join(parts, sql` and `);
}
