import { suggestionSchema, type Labels, type StockObject } from "@larder/core/labels/labels";
import { shapeFromColumns, type ShapeColumn } from "@larder/core/labels/stored-shape";
import { attributeValueSchema, labelStates, splitSchema, type Size } from "@larder/core/model/item";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "../../db/database";
import { numberList, uuidList } from "../../db/array-literal";
import { rowsOf } from "../../db/query";
import { repeatedJson } from "../../db/repeated-json";

const attributes = z.record(z.string(), attributeValueSchema);

const imageSchema = z.object({
  id: z.coerce.number(),
  revision: z.number(),
  width: z.number(),
  height: z.number(),
  said: z.string(),
});

/** As `saidOfImageSchema` reads it. Put together as a text, for `json_build_object` takes four times as long. */
const saidOfImage = sql`concat('{"state":"', state, '","split":', coalesce('"' || split || '"', 'null'), ',"pinned":', pinned::text,
  ',"tags":', case when tags = '{}' then '[]' else array_to_json(tags)::text end, ',"classes":[', array_to_string(image_class_ids, ','),
  '],"captions":', captions, ',"fields":', fields, ',"attributes":', attributes, ',"suggestions":', suggestions,
  ',"present":', (removed_at is null)::text, ',"counts":', class_counts, '}')`;
const noObjects: readonly StockObject[] = [];
/** What is said of an image as a whole, which many say alike. */
const saidOfImageSchema = z
  .object({
    state: z.enum(labelStates),
    split: splitSchema.nullable(),
    pinned: z.boolean(),
    tags: z.array(z.string()),
    classes: z.array(z.number()),
    captions: z.array(z.string()),
    fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
    attributes,
    suggestions: z.array(suggestionSchema),
    present: z.boolean(),
    counts: z.record(z.string(), z.number()),
  })
  .transform(({ counts, ...labels }) => ({ counts, labels: { ...labels, objects: noObjects } }));

const saidSchema = z.object({
  image: z.coerce.number(),
  uid: z.string(),
  class: z.coerce.number(),
  order: z.number(),
  group: z.string().nullable(),
  attributes: attributes.nullable(),
  flags: z.record(z.string(), z.union([z.boolean(), z.number()])),
});

function objectOf(
  { image, uid, class: id, order, group, attributes: values, flags }: z.infer<typeof saidSchema>,
  shape: StockObject["shape"],
): { image: number; object: StockObject } {
  const object: StockObject = { uid, class: id, order, shape, ...flags };
  if (values) object.attributes = values;
  if (group !== null) object.group = group;
  return { image, object };
}

/** An object's row. Its shape was parsed when it came in and is only unpacked here. */
export const objectRowSchema = saidSchema
  .extend({
    shape: z.custom<ShapeColumn>((value) => typeof value === "object" && value !== null),
    mask: z.instanceof(Buffer).nullable(),
  })
  .transform(({ shape, mask, ...said }) => objectOf(said, shapeFromColumns(shape, mask)));

/** Stands for a shape that was not read. */
export const unreadShape: StockObject["shape"] = Object.freeze({ kind: "box", x: 0, y: 0, width: 0, height: 0 });
const saidRowSchema = saidSchema.transform((said) => objectOf(said, unreadShape));

const saidColumns = sql`o.image_id as image, o.uid, o.class_id as class, o.ordinal as order, o.group_uid as "group", o.attributes, o.flags`;
/** The columns of an object as `objectRowSchema` reads them; `o` is the table `objects`. */
export const objectColumns = sql`${saidColumns}, o.shape, o.mask`;

/**
 * What is read of objects: nothing; what is said of those that steps name, which these leave on the image; or all of
 * them with their shapes.
 */
export type ObjectReading = "none" | { named: NamedObjects } | "whole";
/** Objects by their uids, or all of a class. */
export type NamedObjects = { uids: readonly string[] } | { class: number };

export type StandingLabels = {
  labels: Labels;
  revision: number;
  /** Of the upright image, in pixels. */
  size: Size;
  /** Objects a class id, whatever was read of them. */
  counts: Readonly<Record<string, number>>;
};

const isNamed = (named: NamedObjects): SQL =>
  "class" in named ? sql`o.class_id = ${named.class}` : sql`o.uid = any(${uuidList(named.uids)})`;

/**
 * What is said about images now, by id, in ascending order; their rows stay locked until the transaction ends. `objects`:
 * what is read of these, as much as the steps look at. Where that is nothing, images of which the same is said share
 * their labels.
 */
export async function loadLabels(
  tx: Database,
  ids: readonly number[],
  { objects }: { objects: ObjectReading },
): Promise<Map<number, StandingLabels>> {
  const images = await rowsOf(
    tx,
    imageSchema,
    sql`select id, revision, width, height, ${saidOfImage} as said
      from images where id = any(${numberList(ids)}) order by id for update`,
  );
  const standing = new Map<number, StandingLabels>();
  const read = repeatedJson(saidOfImageSchema);
  for (const { id, revision, width, height, said } of images)
    standing.set(id, { revision, size: { width, height }, ...read(said) });
  if (objects === "none") return standing;
  const ofImages = new Map<number, StockObject[]>();
  for (const [id, stands] of standing) {
    const own: StockObject[] = [];
    ofImages.set(id, own);
    standing.set(id, { ...stands, labels: { ...stands.labels, objects: own } });
  }
  const rows = await rowsOf(
    tx,
    objects === "whole" ? objectRowSchema : saidRowSchema,
    sql`select ${objects === "whole" ? objectColumns : saidColumns} from objects o
      where o.image_id = any(${numberList(ids)}) ${objects === "whole" ? sql`` : sql`and ${isNamed(objects.named)}`} order by o.image_id, o.ordinal, o.uid`,
  );
  for (const { image, object } of rows) ofImages.get(image)?.push(object);
  return standing;
}
