import type { ShapeKind } from "../model/shape";
import type { Item } from "../model/item";
import type { Reading, Survey } from "./format";

/** What a source holds, as far as the choice of a target hangs on it. */
export type Holdings = Survey & { outlines: number; mostClasses: number; texts: number };

/**
 * Counts what a source says in one pass, without its pictures. `outlines` are polygons and masks, `mostClasses` the classes of the
 * image that has most, `texts` images with captions or fields.
 */
export async function holdingsOf(reading: Pick<Reading, "items">): Promise<Holdings> {
  const holdings: Holdings = { objects: 0, imageClasses: 0, outlines: 0, mostClasses: 0, texts: 0 };
  for await (const item of reading.items) count(holdings, item);
  return holdings;
}

function count(holdings: Holdings, item: Item): void {
  holdings.objects += item.objects.length;
  holdings.imageClasses += item.classes.length;
  for (const { shape } of item.objects) if (shape.kind === "polygon" || shape.kind === "mask") holdings.outlines++;
  holdings.mostClasses = Math.max(holdings.mostClasses, item.classes.length);
  if (item.captions.length > 0 || Object.keys(item.fields).length > 0) holdings.texts++;
}

/** What a stock holds, for choosing the format of a plan's first package. */
export type StockHoldings = { kinds: ReadonlySet<ShapeKind>; imageClasses: number; texts: number };

/**
 * The format a new plan packs: the one that common trainers read and that keeps what the stock mostly holds, never one
 * that loses everything.
 */
export function suitedFormat({ kinds, imageClasses, texts }: StockHoldings): string {
  if (kinds.has("keypoints")) return kinds.has("polygon") || kinds.has("mask") ? "coco" : "yolo-pose";
  if (kinds.has("polygon") || kinds.has("mask")) return "yolo-seg";
  if (kinds.has("rotated-box")) return "yolo-obb";
  if (kinds.size > 0) return "yolo";
  if (texts > 0) return "jsonl";
  return imageClasses > 0 ? "class-folders" : "yolo";
}

/**
 * The format a source goes to where nobody named one, and why: one that most trainers read and that loses least, never
 * the one it came in.
 */
export function defaultTarget(
  from: string,
  { objects, outlines, mostClasses, texts }: Omit<Holdings, "imageClasses">,
): { to: string; reason: string } {
  if (objects > 0 && from !== "coco") return { to: "coco", reason: "it carries every object's shape" };
  if (objects > 0)
    return outlines > 0
      ? { to: "yolo-seg", reason: "it is coco already, and has outlines" }
      : { to: "yolo", reason: "it is coco already, and has boxes" };
  if (texts > 0 || mostClasses > 1)
    return from === "jsonl"
      ? { to: "csv-labels", reason: "it carries fields and several classes an image" }
      : { to: "jsonl", reason: "it carries captions, fields and several classes an image" };
  return from === "class-folders"
    ? { to: "csv-labels", reason: "it is class-folders already" }
    : { to: "class-folders", reason: "its images have one class at most, and no object" };
}
