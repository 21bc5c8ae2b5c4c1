/**
 * A selection as SQL, for acts on many images. It answers as core/selection's predicate and the snapshot do
 * (core/snapshot/selection-mask.ts); a property test holds the three equal.
 */
import {
  bindSelection,
  type BoundHas,
  type BoundObject,
  type BoundSelection,
  type BoundTest,
  type KnownAttributes,
} from "@larder/core/selection/bind";
import type { Selection } from "@larder/core/selection/chosen";
import type { Criterion, Interval } from "@larder/core/selection/criterion";
import type { ImageField, ObjectField } from "@larder/core/selection/fields";
import { parseSelection } from "@larder/core/selection/parse";
import { patternForSql } from "@larder/core/selection/pattern";
import { atSinglePrecision, singleFields } from "@larder/core/selection/predicate";
import { Failure } from "@larder/core/model/failure";
import { sql, type SQL } from "drizzle-orm";
import { numberList } from "../../db/array-literal";

const textArray = (texts: Iterable<string>) => sql`${sql.param([...texts])}::text[]`;
const any = (parts: readonly SQL[]) => (parts.length === 0 ? sql`false` : sql`(${sql.join([...parts], sql` or `)})`);
const all = (parts: readonly SQL[]) => (parts.length === 0 ? sql`true` : sql`(${sql.join([...parts], sql` and `)})`);

/** A number as a parameter of its own kind: no text that PostgreSQL would have to guess about. */
const float = (value: number) =>
  sql`${Number.isFinite(value) ? String(value) : value > 0 ? "Infinity" : "-Infinity"}::float8`;

function isWithin(value: SQL, { low, lowOpen, high, highOpen }: Interval): SQL {
  const parts: SQL[] = [];
  if (low !== -Infinity) parts.push(lowOpen ? sql`${value} > ${float(low)}` : sql`${value} >= ${float(low)}`);
  if (high !== Infinity) parts.push(highOpen ? sql`${value} < ${float(high)}` : sql`${value} <= ${float(high)}`);
  return parts.length === 0 ? sql`${value} is not null` : all(parts);
}

/** Lower case as everywhere in the world, not as this server's locale has it. */
const lower = (value: SQL) => sql`lower(${value} collate "und-x-icu")`;

function textPasses(value: SQL, { texts, pattern }: Criterion): SQL {
  const parts: SQL[] = [];
  if (texts.size > 0) parts.push(sql`${value} = any(${textArray(texts)})`);
  if (pattern !== null) parts.push(sql`${lower(value)} like ${patternForSql(pattern)} escape '\\'`);
  return any(parts);
}

/** What a field holds, as SQL: one value or several. */
type Held =
  | { kind: "text"; value: SQL }
  /** A query of one column `v` with the texts. */
  | { kind: "texts"; rows: SQL }
  | { kind: "number" | "moment"; value: SQL }
  | { kind: "truth"; value: SQL };

function passes(held: Held, criterion: Criterion): SQL {
  const { numbers, dates, truths } = criterion;
  const outcome = (() => {
    switch (held.kind) {
      case "text":
        return textPasses(held.value, criterion);
      case "texts":
        return sql`exists (select 1 from (${held.rows}) held(v) where ${textPasses(sql`held.v`, criterion)})`;
      case "number":
        return any(numbers.map((interval) => isWithin(held.value, interval)));
      case "moment":
        return any(dates.map((interval) => isWithin(held.value, interval)));
      case "truth":
        return any(truths.map((truth) => (truth ? held.value : sql`not ${held.value}`)));
    }
  })();
  const settled = sql`coalesce(${outcome}, false)`;
  return criterion.negated ? sql`not ${settled}` : settled;
}

const isSet = (held: Held): SQL =>
  held.kind === "texts" ? sql`exists (select 1 from (${held.rows}) held(v))` : sql`(${held.value}) is not null`;

function attributeTest(test: BoundTest<string>, attributes: SQL, names: readonly string[]): SQL {
  if (test.kind === "known") {
    const set = sql`coalesce(${attributes} ?| ${textArray(names)}, false)`;
    return test.set ? set : sql`not ${set}`;
  }
  const { criterion } = test;
  const { numbers, dates, truths, negated } = criterion;
  const text = sql`(e.v #>> '{}')`;
  const asText = [textPasses(text, criterion)];
  if (numbers.length > 0)
    asText.push(any(numbers.map((interval) => isWithin(sql`selection_number(${text})`, interval))));
  if (dates.length > 0) asText.push(any(dates.map((interval) => isWithin(sql`selection_moment(${text})`, interval))));
  const asNumber = any(numbers.map((interval) => isWithin(sql`${text}::float8`, interval)));
  const asTruth = any(truths.map((truth) => (truth ? sql`${text} = 'true'` : sql`${text} = 'false'`)));
  const some = sql`exists (select 1 from unnest(${textArray(names)}) n(name),
    lateral (select ${attributes} -> n.name as v) a,
    lateral (select a.v where jsonb_typeof(a.v) <> 'array'
      union all select x.value from jsonb_array_elements(case when jsonb_typeof(a.v) = 'array' then a.v end) x(value)) e(v)
    where case jsonb_typeof(e.v) when 'string' then ${any(asText)} when 'number' then ${asNumber} when 'boolean' then ${asTruth} else false end)`;
  return negated ? sql`not ${some}` : some;
}

const fact = (name: "source" | "licence" | "camera" | "takenFrom") =>
  sql`(select nullif(d.facts->>${sql.raw(`'${name}'`)}, '') from deliveries d where d.id = i.delivery_id)`;

const degrees = (value: SQL) => sql`to_char(${value}, 'FM990.00')`;

/**
 * Where an image was taken, to a hundredth of a degree (about a kilometre): as its own file tells, else as was written
 * down for its delivery.
 */
const placeTaken = sql`coalesce(${degrees(sql`i.latitude`)} || ' ' || ${degrees(sql`i.longitude`)},
  (select ${degrees(sql`(d.facts->>'latitude')::float8`)} || ' ' || ${degrees(sql`(d.facts->>'longitude')::float8`)} from deliveries d where d.id = i.delivery_id))`;

const milliseconds = (value: SQL) => sql`((extract(epoch from ${value}) * 1000)::int8)`;
const openSuggestions = sql`jsonb_array_elements(i.suggestions) s(value) where not s.value ? 'answer'`;
const nothing = sql`null`;

/** The fields of `images i`. */
const imageHeld: Record<ImageField, Held> = {
  name: { kind: "text", value: sql`i.name` },
  split: { kind: "text", value: sql`coalesce(i.split, 'none')` },
  state: { kind: "text", value: sql`i.state` },
  class: {
    kind: "texts",
    rows: sql`select k.name from classes k where k.id = any(i.image_class_ids) and k.merged_into is null and k.removed_at is null`,
  },
  tag: { kind: "texts", rows: sql`select unnest(i.tags)` },
  objects: { kind: "number", value: sql`i.object_count` },
  width: { kind: "number", value: sql`i.width` },
  height: { kind: "number", value: sql`i.height` },
  megapixels: { kind: "number", value: sql`(i.width::float8 * i.height / 1e6::float8)` },
  ratio: { kind: "number", value: sql`(i.width::float8 / nullif(i.height, 0))` },
  bytes: { kind: "number", value: sql`i.bytes` },
  taken: {
    kind: "moment",
    value: sql`coalesce(${milliseconds(sql`i.taken_at`)}, selection_moment(${fact("takenFrom")}))`,
  },
  arrived: { kind: "moment", value: milliseconds(sql`i.created_at`) },
  changed: { kind: "moment", value: milliseconds(sql`i.labels_at`) },
  delivery: { kind: "text", value: sql`(select d.name from deliveries d where d.id = i.delivery_id)` },
  source: { kind: "text", value: fact("source") },
  licence: { kind: "text", value: fact("licence") },
  camera: { kind: "text", value: fact("camera") },
  place: { kind: "text", value: placeTaken },
  caption: { kind: "texts", rows: sql`select jsonb_array_elements_text(i.captions)` },
  "near-copies": {
    kind: "number",
    value: sql`(select count(*) from near_pairs p join images o on o.id = p.other_id where p.image_id = i.id and o.removed_at is null)`,
  },
  finding: { kind: "texts", rows: sql`select unnest(i.findings)` },
  pinned: { kind: "truth", value: sql`i.pinned` },
  turned: { kind: "truth", value: sql`(i.orientation > 1)` },
  packet: { kind: "text", value: nothing },
  by: { kind: "text", value: nothing },
  review: { kind: "text", value: nothing },
  suggestions: { kind: "number", value: sql`(select count(*) from ${openSuggestions})` },
  likely: { kind: "number", value: sql`(select min((s.value->>'confidence')::float8) from ${openSuggestions})` },
};

/** A column of `objects o` at the precision at which the snapshot keeps it. */
const single = (column: "x" | "y" | "width" | "height" | "area") => sql`(o.${sql.raw(column)}::float4::float8)`;
const flag = (name: string): Held => ({
  kind: "truth",
  value: sql`coalesce((o.flags->>${sql.raw(`'${name}'`)})::bool, false)`,
});

const objectHeld: Record<ObjectField, Held> = {
  width: { kind: "number", value: single("width") },
  height: { kind: "number", value: single("height") },
  area: { kind: "number", value: single("area") },
  share: { kind: "number", value: sql`(${single("area")} / nullif(i.width::float8 * i.height, 0))` },
  ratio: {
    kind: "number",
    value: sql`(case when ${single("height")} > 0 then ${single("width")} / ${single("height")} end)`,
  },
  x: { kind: "number", value: sql`((${single("x")} + ${single("width")} / 2) / nullif(i.width, 0))` },
  y: { kind: "number", value: sql`((${single("y")} + ${single("height")} / 2) / nullif(i.height, 0))` },
  confidence: { kind: "number", value: sql`((o.flags->>'confidence')::float4::float8)` },
  shape: { kind: "text", value: sql`(o.shape->>'kind')` },
  crowd: flag("crowd"),
  occluded: flag("occluded"),
  truncated: flag("truncated"),
  difficult: flag("difficult"),
  suggested: { kind: "truth", value: sql`false` },
  by: { kind: "text", value: nothing },
};

function fieldTest<F extends string>(test: BoundTest<F>, fields: Record<F, Held>, attributes: SQL): SQL {
  if ("attribute" in test.field) return attributeTest(test, attributes, test.field.attribute);
  const { field } = test.field;
  const held = fields[field];
  if (test.kind === "known") return test.set ? isSet(held) : sql`not ${isSet(held)}`;
  // A pattern means the base name as well as the whole path.
  if (field === "name" && test.criterion.pattern !== null)
    return passes(
      { kind: "texts", rows: sql`select i.name union all select regexp_replace(i.name, '^.*/', '')` },
      test.criterion,
    );
  return passes(held, test.criterion);
}

function objectSql(tree: BoundObject): SQL {
  switch (tree.kind) {
    case "and":
      return all(tree.parts.map(objectSql));
    case "or":
      return any(tree.parts.map(objectSql));
    case "not":
      return sql`not ${objectSql(tree.part)}`;
    default: {
      const coarse = tree.kind === "compare" && "field" in tree.field && singleFields.has(tree.field.field);
      const test = coarse ? { ...tree, criterion: atSinglePrecision(tree.criterion) } : tree;
      return fieldTest(test, objectHeld, sql`o.attributes`);
    }
  }
}

const classIds = (names: ReadonlySet<string>) =>
  sql`array(select k.id from classes k where k.collection_id = i.collection_id and k.merged_into is null and k.removed_at is null and k.name = any(${textArray(names)}))`;

function hasSql({ least, most, classes, where, suggestions }: BoundHas): SQL {
  if (suggestions)
    throw new Failure(
      "selection-unsupported",
      "What is suggested can be looked at by its measures, but not yet acted on by them. Pick the images instead.",
      422,
    );
  const between = (count: SQL) =>
    most === Infinity ? sql`${count} >= ${least}` : all([sql`${count} >= ${least}`, sql`${count} <= ${most}`]);
  if (where === null && classes === null) return between(sql`i.object_count`);
  // How many objects of each class an image has stands in its own row.
  if (where === null && classes !== null)
    return between(
      sql`(select coalesce(sum(n.value::int), 0) from jsonb_each_text(i.class_counts) n(key, value) where n.key = any((${classIds(classes)})::text[]))`,
    );
  const meant = [sql`o.image_id = i.id`];
  if (classes !== null) meant.push(sql`o.class_id = any(${classIds(classes)})`);
  if (where !== null) meant.push(objectSql(where));
  if (least === 1 && most === Infinity) return sql`exists (select 1 from objects o where ${all(meant)})`;
  if (least === 0 && most === 0) return sql`not exists (select 1 from objects o where ${all(meant)})`;
  return between(sql`(select count(*) from objects o where ${all(meant)})`);
}

/** A bound selection as a condition on `images i`, never null. */
export function conditionSql(tree: BoundSelection): SQL {
  switch (tree.kind) {
    case "all":
      return sql`true`;
    case "and":
      return all(tree.parts.map(conditionSql));
    case "or":
      return any(tree.parts.map(conditionSql));
    case "not":
      return sql`not ${conditionSql(tree.part)}`;
    case "has":
      return hasSql(tree);
    default:
      return fieldTest(tree, imageHeld, sql`i.attributes`);
  }
}

/** The images of a collection that a selection means, as a condition on `images i`: those in stock, or those in the bin. */
export function selectionSql(
  collection: number,
  { where, only, except }: Selection,
  attributes: KnownAttributes,
  from: "stock" | "bin" = "stock",
): SQL {
  const parts = [
    sql`i.collection_id = ${collection}`,
    from === "stock" ? sql`i.removed_at is null` : sql`i.removed_at is not null`,
    conditionSql(bindSelection(parseSelection(where), attributes)),
  ];
  if (only) parts.push(sql`i.id = any(${numberList(only)})`);
  if (except.length > 0) parts.push(sql`not i.id = any(${numberList(except)})`);
  return sql.join(parts, sql` and `);
}
