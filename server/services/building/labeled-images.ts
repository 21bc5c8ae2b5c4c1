import { labelStates, licenceSchema, splitSchema, type ClassInfo, type LabeledObject } from "@larder/core/model/item";
import type { StockImage } from "@larder/core/versions/version-lines";
import { and, asc, eq, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { rowsOf } from "../../db/query";
import { classes } from "../../db/schema";
import { classInfoOf } from "../classes/class-info";
import { classNamesById } from "../labels/class-names";
import { objectColumns, objectRowSchema } from "../labels/load-labels";

const pageSize = 400;

const imageSchema = z.object({
  id: z.coerce.number(),
  sha256: z.string(),
  name: z.string(),
  width: z.number(),
  height: z.number(),
  orientation: z.number(),
  extension: z.string(),
  split: splitSchema.nullable(),
  state: z.enum(labelStates),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  licence: licenceSchema.nullable(),
  classes: z.array(z.coerce.number()),
});

/** The stock with all labels, in the order of its hashes, a page at a time; only `keys` where given. */
export async function* labeledImages(
  on: Database,
  collection: number,
  keys?: readonly string[],
): AsyncGenerator<StockImage> {
  const names = await classNamesById(on, collection);
  const nameOf = (id: number) => names.get(id) ?? "";
  for (let after = ""; ;) {
    const page = await rowsOf(
      on,
      imageSchema,
      sql`select i.id, i.sha256, i.name, i.width, i.height, i.orientation, i.extension, i.split, i.state, i.captions, i.fields, i.licence, i.image_class_ids as classes
        from images i where i.collection_id = ${collection} and i.removed_at is null and i.sha256 > ${after}
          ${keys ? sql`and i.sha256 = any(${sql.param([...keys])}::text[])` : sql``}
        order by i.sha256 limit ${pageSize}`,
    );
    const objects = new Map<number, LabeledObject[]>(page.map(({ id }) => [id, []]));
    const rows = await rowsOf(
      on,
      objectRowSchema,
      sql`select ${objectColumns} from objects o where o.image_id = any(${numberList([...objects.keys()])}) order by o.image_id, o.ordinal, o.uid`,
    );
    for (const { image, object } of rows) {
      const { uid: _, order: __, group: ___, class: id, ...labels } = object;
      objects.get(image)?.push({ ...labels, class: nameOf(id) });
    }
    for (const { id, classes: ids, sha256: key, width, height, ...image } of page)
      yield { ...image, key, size: { width, height }, classes: ids.map(nameOf), objects: objects.get(id) ?? [] };
    const last = page.at(-1);
    if (!last || page.length < pageSize) return;
    after = last.sha256;
  }
}

/** The classes of a collection in their order. */
export async function classInfos(on: Database, collection: number): Promise<ClassInfo[]> {
  const rows = await on
    .select()
    .from(classes)
    .where(and(eq(classes.collectionId, collection), isNull(classes.mergedInto), isNull(classes.removedAt)))
    .orderBy(asc(classes.position), asc(classes.id));
  return rows.map(classInfoOf);
}
