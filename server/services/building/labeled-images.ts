import type { ClassInfo, LabeledObject, LabelState, Split } from "@larder/core/model/item";
import type { Plan } from "@larder/core/plans/plan";
import { classesAfter, renamed } from "@larder/core/relabel/mapping";
import { asc, eq, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { classes } from "../../db/schema";
import { classNames } from "../stock-rows";

export type LabeledImage = {
  sha256: string;
  name: string;
  width: number;
  height: number;
  orientation: number;
  extension: string;
  split: Split | null;
  state: LabelState;
  objects: LabeledObject[];
  classes: string[];
  captions: string[];
  fields: Record<string, string | string[]>;
};

const pageSize = 400;

type Row = Omit<LabeledImage, "objects" | "classes"> & {
  image_class_ids: number[];
  objects: {
    class_id: number;
    shape: LabeledObject["shape"];
    attributes: LabeledObject["attributes"] | null;
    flags: Partial<LabeledObject>;
  }[];
};

/** The stock with all labels, in the order of its hashes, a page at a time; only `keys` where given. */
export async function* labeledImages(collectionId: number, keys?: readonly string[]): AsyncIterable<LabeledImage> {
  const names = await classNames(collectionId);
  let after = "";
  for (;;) {
    const { rows } = await db().execute<Row>(sql`
      select i.sha256, i.name, i.width, i.height, i.orientation, i.extension, i.split, i.state, i.captions, i.fields, i.image_class_ids::int[],
        coalesce((select jsonb_agg(jsonb_build_object('class_id', o.class_id, 'shape', o.shape, 'attributes', o.attributes, 'flags', o.flags) order by o.ordinal) from objects o where o.image_id = i.id), '[]') as objects
      from images i where i.collection_id = ${collectionId} and i.sha256 collate "C" > ${after}
        ${keys ? sql`and i.sha256 = any(${sql.param([...keys])}::text[])` : sql``}
      order by i.sha256 collate "C" limit ${pageSize}`);
    for (const { image_class_ids, objects, ...row } of rows) {
      yield {
        ...row,
        classes: image_class_ids.map((id) => names.get(id) ?? ""),
        objects: objects.map(({ class_id, shape, attributes, flags }) => ({
          class: names.get(class_id) ?? "",
          shape,
          ...(attributes ? { attributes } : {}),
          ...flags,
        })),
      };
    }
    const last = rows[rows.length - 1];
    if (!last || rows.length < pageSize) return;
    after = last.sha256;
  }
}

/** The classes of a version in their order, with the keypoints of the first that goes by each name. */
export async function classInfos(collectionId: number, plan: Plan): Promise<ClassInfo[]> {
  const rows = await db()
    .select()
    .from(classes)
    .where(eq(classes.collectionId, collectionId))
    .orderBy(asc(classes.position), asc(classes.id));
  return classesAfter(
    rows.map((row) => row.name),
    plan.relabel,
  ).map((name) => {
    const row = rows.find((candidate) => renamed(candidate.name, plan.relabel) === name && candidate.keypoints);
    return {
      name,
      ...(row?.keypoints ? { keypoints: row.keypoints } : {}),
      ...(row?.skeleton ? { skeleton: row.skeleton } : {}),
    };
  });
}
