import type { Reading } from "@larder/core/formats/format";
import { Failure } from "@larder/core/model/failure";
import { blankItem, type Item } from "@larder/core/model/item";
import { selectionSchema } from "@larder/core/selection/chosen";
import { selecting } from "@larder/core/selection/dimensions";
import { and, asc, eq, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { rowsOf } from "../../db/query";
import { attributesFor } from "../stock/known-attributes";
import { selectionSql } from "../stock/selection-sql";
import { db } from "../../db/database";
import { classes, type Origin } from "../../db/schema";
import { labeledImages } from "../building/labeled-images";
import { classInfoOf } from "../classes/class-info";
import { collectionRow } from "../collections";
import { stockFiles, StockTree } from "./stock-tree";

type FromCollection = Extract<Origin, { kind: "collection" }>;

/** The hashes of the chosen images: a selection, all of one class, or null for the whole collection. */
async function chosen({ collection, class: name, selection }: FromCollection): Promise<string[] | null> {
  if (selection === null && name === null) return null;
  const means = selectionSchema.parse(selection ?? { where: selecting({ class: name === null ? [] : [name] }) });
  const attributes = await attributesFor(collection, means.where);
  const rows = await rowsOf(
    db(),
    z.object({ sha256: z.string() }),
    sql`select i.sha256 from images i where ${selectionSql(collection, means, { image: attributes, object: attributes })}`,
  );
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
    for await (const image of labeledImages(db(), origin.collection, keys ?? undefined)) {
      const path = pathOf.get(image.key);
      if (path === undefined) continue;
      const item = { ...blankItem(path), split: image.split, declared: image.size };
      if (!origin.labels) yield item;
      else
        yield {
          ...item,
          state: image.state,
          objects: image.objects.filter((object) => wanted(object.class)),
          classes: image.classes.filter(wanted),
          captions: image.captions,
          fields: image.fields,
          ...(image.licence ? { licence: image.licence } : {}),
        };
    }
  }
  const read = async (): Promise<Reading> => {
    const rows = await db()
      .select()
      .from(classes)
      .where(and(eq(classes.collectionId, origin.collection), isNull(classes.mergedInto), isNull(classes.removedAt)))
      .orderBy(asc(classes.position), asc(classes.id));
    const kept = origin.labels ? rows.filter((row) => wanted(row.name)) : [];
    return {
      classes: kept.map((row) => classInfoOf(row)),
      items: items(),
    };
  };
  const which = origin.selection
    ? "chosen images"
    : origin.class
      ? `images of the class ${origin.class}`
      : "all images";
  return {
    tree: new StockTree(files),
    reading: { reason: `${which} of ${name}, ${origin.labels ? "with" : "without"} their labels`, read },
  };
}
