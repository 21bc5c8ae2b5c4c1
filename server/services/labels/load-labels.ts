import { suggestionSchema, type Labels, type StockObject } from "@larder/core/labels/labels";
import { shapeFromColumns, type ShapeColumn } from "@larder/core/labels/stored-shape";
import { attributeValueSchema, labelStates, splitSchema, type Size } from "@larder/core/model/item";
import { sql } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "../../db/database";
import { rowsOf } from "../../db/query";

const attributes = z.record(z.string(), attributeValueSchema);

const imageSchema = z.object({
  id: z.coerce.number(),
  revision: z.number(),
  state: z.enum(labelStates),
  split: splitSchema.nullable(),
  pinned: z.boolean(),
  tags: z.array(z.string()),
  classes: z.array(z.coerce.number()),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  attributes,
  suggestions: z.array(suggestionSchema),
  present: z.boolean(),
  width: z.number(),
  height: z.number(),
});

/** An object's row. Its shape was parsed when it came in and is only unpacked here. */
export const objectRowSchema = z
  .object({
    image: z.coerce.number(),
    uid: z.string(),
    class: z.coerce.number(),
    order: z.number(),
    shape: z.custom<ShapeColumn>((value) => typeof value === "object" && value !== null),
    mask: z.instanceof(Buffer).nullable(),
    group: z.string().nullable(),
    attributes: attributes.nullable(),
    flags: z.record(z.string(), z.union([z.boolean(), z.number()])),
  })
  .transform(({ image, uid, class: id, order, shape, mask, group, attributes: values, flags }) => {
    const object: StockObject = { uid, class: id, order, shape: shapeFromColumns(shape, mask), ...flags };
    if (values) object.attributes = values;
    if (group !== null) object.group = group;
    return { image, object };
  });

/** The columns of an object as `objectRowSchema` reads them; `o` is the table `objects`. */
export const objectColumns = sql`o.image_id as image, o.uid, o.class_id as class, o.ordinal as order, o.shape, o.mask, o.group_uid as "group", o.attributes, o.flags`;

export type StandingLabels = { labels: Labels; revision: number; /** Of the upright image, in pixels. */ size: Size };

/**
 * What is said about images now, by id, in ascending order; their rows stay locked until the transaction ends. Without
 * `objects` these are left out: for steps that do not look at them.
 */
export async function loadLabels(
  tx: Database,
  ids: readonly number[],
  { objects }: { objects: boolean },
): Promise<Map<number, StandingLabels>> {
  const images = await rowsOf(
    tx,
    imageSchema,
    sql`select id, revision, state, split, pinned, tags, image_class_ids as classes, captions, fields, attributes, suggestions, removed_at is null as present, width, height
      from images where id = any(${sql.param(ids)}::bigint[]) order by id for update`,
  );
  const standing = new Map<number, StandingLabels & { labels: { objects: StockObject[] } }>();
  for (const { id, revision, width, height, ...labels } of images)
    standing.set(id, { revision, size: { width, height }, labels: { ...labels, objects: [] } });
  if (!objects) return standing;
  const rows = await rowsOf(
    tx,
    objectRowSchema,
    sql`select ${objectColumns} from objects o where o.image_id = any(${sql.param(ids)}::bigint[]) order by o.image_id, o.ordinal, o.uid`,
  );
  for (const { image, object } of rows) standing.get(image)?.labels.objects.push(object);
  return standing;
}
