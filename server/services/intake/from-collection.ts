import type { Reading } from "@larder/core/formats/format";
import { Failure } from "@larder/core/model/failure";
import { blankItem, type Item } from "@larder/core/model/item";
import { asc, eq, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { classes, type Origin } from "../../db/schema";
import { labeledImages } from "../building/labeled-images";
import { collectionRow } from "../collections";
import { stockFiles, StockTree } from "./stock-tree";

type FromCollection = Extract<Origin, { kind: "collection" }>;

/** The hashes of the chosen images: some by id, all of one class, or null for the whole collection. */
async function chosen({ collection, class: name, images }: FromCollection): Promise<string[] | null> {
  if (images === null && name === null) return null;
  const { rows } = await db().execute<{ sha256: string }>(sql`
    select sha256 from images i where i.collection_id = ${collection}
      ${images === null ? sql`` : sql`and i.id = any(${sql.param(images)}::bigint[])`}
      ${name === null ? sql`` : sql`and i.class_ids && (select coalesce(array_agg(k.id), '{}') from classes k where k.collection_id = ${collection} and k.name = ${name})`}`);
  return rows.map((row) => row.sha256);
}

/**
 * Images of another collection, with their labels or without. Taking one class takes only that class's labels along.
 */
export async function fromCollection(
  origin: FromCollection,
): Promise<{ tree: StockTree; reading: { reason: string; read: () => Promise<Reading> } }> {
  const { name } = await collectionRow(origin.collection);
  const keys = await chosen(origin);
  if (keys?.length === 0) throw new Failure("nothing-chosen", `Nothing of ${name} fits what was chosen.`);
  const files = await stockFiles(origin.collection, keys ?? undefined);
  const pathOf = new Map(files.map(({ sha256, path }) => [sha256, path]));
  const wanted = (className: string) => origin.class === null || className === origin.class;
  async function* items(): AsyncIterable<Item> {
    for await (const image of labeledImages(origin.collection, keys ?? undefined)) {
      const path = pathOf.get(image.sha256);
      if (path === undefined) continue;
      const item = { ...blankItem(path), split: image.split, declared: { width: image.width, height: image.height } };
      if (!origin.labels) yield item;
      else
        yield {
          ...item,
          state: image.state,
          objects: image.objects.filter((object) => wanted(object.class)),
          classes: image.classes.filter(wanted),
          captions: image.captions,
          fields: image.fields,
        };
    }
  }
  const read = async (): Promise<Reading> => {
    const rows = await db()
      .select()
      .from(classes)
      .where(eq(classes.collectionId, origin.collection))
      .orderBy(asc(classes.position), asc(classes.id));
    const kept = origin.labels ? rows.filter((row) => wanted(row.name)) : [];
    return {
      classes: kept.map((row) => ({
        name: row.name,
        ...(row.keypoints ? { keypoints: row.keypoints } : {}),
        ...(row.skeleton ? { skeleton: row.skeleton } : {}),
      })),
      items: items(),
    };
  };
  const said = origin.images ? "chosen images" : origin.class ? `images of the class ${origin.class}` : "all images";
  return {
    tree: new StockTree(files),
    reading: { reason: `${said} of ${name}, ${origin.labels ? "with" : "without"} their labels`, read },
  };
}
