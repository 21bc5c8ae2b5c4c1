/** What one row of metadata says of an image; jsonl and parquet share these columns. */
import { z } from "zod";
import { shapeArea, shapeBounds } from "../geometry/shape";
import type { Findings } from "../model/finding";
import { carriesLabels, type Item, type LabeledObject } from "../model/item";

const text = z.union([
  z.string(),
  z.number().transform(String),
  z.bigint().transform(String),
  z.boolean().transform(String),
]);
const texts = z.union([text.transform((value) => [value]), z.array(text)]).nullish();
const objectsSchema = z.object({
  bbox: z.array(z.unknown()),
  category: z.array(text.nullish()).optional(),
  label: z.array(text.nullish()).optional(),
  categories: z.array(text.nullish()).optional(),
});
const fieldsSchema = z.record(z.string(), z.union([text, z.array(text)]).nullish());

export const rowSchema = z.object({
  label: texts.catch(undefined),
  labels: texts.catch(undefined),
  text: texts.catch(undefined),
  caption: texts.catch(undefined),
  objects: z.unknown().optional(),
  fields: fieldsSchema.nullish().catch(undefined),
  ground_truth: z.string().nullish().catch(undefined),
  split: z.string().nullish().catch(undefined),
  width: z.coerce.number().nullish().catch(undefined),
  height: z.coerce.number().nullish().catch(undefined),
});
export type Row = z.infer<typeof rowSchema>;

function box(value: unknown): [number, number, number, number] | null {
  const list = ArrayBuffer.isView(value) ? Array.from(value as Float64Array) : value;
  if (!Array.isArray(list) || list.length !== 4) return null;
  return list.every((entry) => typeof entry === "number" && Number.isFinite(entry))
    ? (list as [number, number, number, number])
    : null;
}

/** `{"gt_parse": {…}}` as fields: nested keys are joined by dots. */
function groundTruth(labeled: string): Record<string, string | string[]> {
  const fields: Record<string, string | string[]> = {};
  const put = (key: string, value: unknown): void => {
    if (value === null || value === undefined) return;
    if (Array.isArray(value) && value.every((entry) => typeof entry !== "object"))
      fields[key] = value.map((entry: string | number | boolean | null) => String(entry));
    else if (typeof value === "object") {
      for (const [name, inner] of Object.entries(value)) put(key === "" ? name : `${key}.${name}`, inner);
    } else fields[key] = typeof value === "string" ? value : JSON.stringify(value);
  };
  const parsed: unknown = JSON.parse(labeled);
  const parse = typeof parsed === "object" && parsed !== null && "gt_parse" in parsed ? parsed.gt_parse : null;
  if (typeof parse !== "object" || parse === null) throw new Error("no gt_parse");
  put("", parse);
  return fields;
}

/** Puts what a row says onto an item: objects, classes, captions, fields, and the state that follows. */
export function readRow(row: Row, item: Item, report: Findings): void {
  let labeled = false;
  if (row.objects !== null && row.objects !== undefined) {
    const parsed = objectsSchema.safeParse(row.objects);
    if (!parsed.success) report.add("annotation-unreadable", item.path, "objects is no object of lists with a bbox");
    else {
      labeled = true;
      const { bbox } = parsed.data;
      const categories = parsed.data.category ?? parsed.data.categories ?? parsed.data.label ?? [];
      bbox.forEach((entry, n) => {
        const edges = box(entry);
        const category = categories[n];
        if (category === null || category === undefined)
          report.add("class-unknown", item.path, `object ${n + 1} has no category`);
        else if (!edges) report.add("shape-degenerate", item.path, category);
        else
          item.objects.push({
            class: category,
            shape: { kind: "box", x: edges[0], y: edges[1], width: edges[2], height: edges[3] },
          });
      });
    }
  }
  for (const name of [...(row.label ?? []), ...(row.labels ?? [])])
    if (name !== "" && !item.classes.includes(name)) item.classes.push(name);
  if (row.labels) labeled = true;
  item.captions.push(...(row.text ?? []), ...(row.caption ?? []));
  for (const [key, value] of Object.entries(row.fields ?? {}))
    if (value !== null && value !== undefined) item.fields[key] = value;
  if (row.ground_truth) {
    try {
      Object.assign(item.fields, groundTruth(row.ground_truth));
    } catch {
      report.add("annotation-unreadable", item.path, "ground_truth is no JSON text with a gt_parse");
    }
  }
  item.state = carriesLabels(item) || (labeled && hadObjects(row)) ? "labeled" : labeled ? "empty" : "unlabeled";
}

function hadObjects(row: Row): boolean {
  const parsed = objectsSchema.safeParse(row.objects);
  return parsed.success && parsed.data.bbox.length > 0;
}

/** Objects as an object of lists; areas are the shapes' own. */
export function objectLists(objects: readonly LabeledObject[]): {
  bbox: number[][];
  category: string[];
  area: number[];
} {
  const lists = { bbox: [] as number[][], category: [] as string[], area: [] as number[] };
  for (const object of objects) {
    const bounds = shapeBounds(object.shape);
    if (!bounds) continue;
    lists.bbox.push([bounds.x, bounds.y, bounds.width, bounds.height]);
    lists.category.push(object.class);
    lists.area.push(shapeArea(object.shape));
  }
  return lists;
}
