/** COCO JSON: instances, keypoints, captions. The traps are listed in docs/formats.md. */
import { z } from "zod";
import { decodeCounts, runsBounds } from "../../geometry/run-length";
import { baseName, extensionOf, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type ClassInfo, type Item, type LabeledObject, type Split } from "../../model/item";
import type { Keypoint, Part, Shape } from "../../model/shape";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Options, Reading } from "../format";
import { ImageIndex } from "../image-index";
import { JsonUnreadable, readTopLevelArrays } from "../json-elements";

const idSchema = z.union([z.string(), z.number()]).transform(String);
const imageSchema = z.object({ id: idSchema, file_name: z.string(), width: z.number().nullish(), height: z.number().nullish() });
const categorySchema = z.object({
  id: idSchema,
  name: z.union([z.string(), z.number()]).transform(String),
  keypoints: z.array(z.string()).optional().catch(undefined),
  skeleton: z.array(z.tuple([z.number(), z.number()])).optional().catch(undefined),
});

type ListedImage = { item: Item; found: boolean };
type Annotation = Record<string, unknown>;

/** True where the first bytes of a JSON file look like this format. */
export function looksLikeCoco(start: string): boolean {
  return /"(images|annotations|categories)"\s*:\s*\[/.test(start);
}

/** Reads every COCO file of the tree; several merge by class name, images join by `image_id`. */
export async function readCoco(files: FileTree, options: Options, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const index = new ImageIndex(entries);
  const classes: ClassInfo[] = [];
  const listed = new Map<string, ListedImage>();
  const order: ListedImage[] = [];
  const unannotated = options["unannotated"] === "unlabeled" ? "unlabeled" : "empty";

  for (const { path } of entries.filter((entry) => extensionOf(entry.path) === "json")) {
    const split = splitFromFileName(baseName(path)) ?? splitFromPath(path);
    const categories = new Map<string, ClassInfo>();
    const pictures = new Map<string, ListedImage>();
    const annotations: Annotation[] = [];
    const images: z.infer<typeof imageSchema>[] = [];
    let keys: string[];
    try {
      keys = await readTopLevelArrays(files.stream(path), {
        images: (element) => {
          const parsed = imageSchema.safeParse(element);
          if (parsed.success) images.push(parsed.data);
          else report.add("annotation-unreadable", path, "an entry of images has no id or file_name");
        },
        categories: (element) => {
          const parsed = categorySchema.safeParse(element);
          if (!parsed.success) return;
          const { id, name, keypoints, skeleton } = parsed.data;
          categories.set(id, { name, ...(keypoints ? { keypoints } : {}), ...(skeleton ? { skeleton } : {}) });
        },
        annotations: (element) => {
          if (typeof element === "object" && element !== null) annotations.push(element as Annotation);
        },
      });
    } catch (error) {
      if (!(error instanceof JsonUnreadable)) throw error;
      report.add("annotation-unreadable", path, error.message);
      continue;
    }
    if (!keys.includes("images") || (!keys.includes("annotations") && !keys.includes("categories"))) {
      report.add("annotation-unreadable", path, "it is JSON, but not COCO: it has no images and annotations lists");
      continue;
    }
    for (const info of categories.values()) {
      if (!classes.some((known) => known.name === info.name)) classes.push(info);
    }
    for (const image of images) pictures.set(image.id, listImage(image, path, split));
    for (const annotation of annotations) placeAnnotation(annotation, path, categories, pictures, report);
  }

  function listImage(image: z.infer<typeof imageSchema>, saidBy: string, split: Split | null): ListedImage {
    const match = index.find(image.file_name, saidBy);
    const found = match !== null && "path" in match;
    const key = found ? match.path : `${saidBy}#${image.id}`;
    const known = listed.get(key);
    if (known) return known;
    if (match && "ambiguous" in match) report.add("image-missing", image.file_name, `several pictures fit: ${match.ambiguous.slice(0, 3).join(", ")}`);
    else if (!match) report.add("image-missing", image.file_name, `named in ${saidBy}`);
    const item = blankItem(found ? match.path : image.file_name.replaceAll("\\", "/"));
    item.present = found;
    item.split = split ?? splitFromPath(item.path);
    item.state = unannotated;
    if (image.width && image.height) item.declared = { width: image.width, height: image.height };
    const entry = { item, found };
    listed.set(key, entry);
    order.push(entry);
    return entry;
  }

  async function* items(): AsyncIterable<Item> {
    for (const { item } of order) yield item;
    for (const path of index.paths) {
      if (listed.has(path)) continue;
      const item = blankItem(path);
      item.split = splitFromPath(path);
      yield item;
    }
  }
  return { classes, items: items() };
}

function placeAnnotation(
  annotation: Annotation,
  path: string,
  categories: Map<string, ClassInfo>,
  pictures: Map<string, ListedImage>,
  report: Findings,
): void {
  const picture = pictures.get(String(annotation["image_id"]));
  if (!picture) {
    report.add("image-missing", path, `annotation ${String(annotation["id"])} names image ${String(annotation["image_id"])}`);
    return;
  }
  const { item } = picture;
  // Something was said of this image, even where it cannot be used; settling tells whether anything is left.
  item.state = "labeled";
  if (typeof annotation["caption"] === "string") {
    item.captions.push(annotation["caption"]);
    return;
  }
  const info = categories.get(String(annotation["category_id"]));
  if (!info) {
    report.add("class-unknown", item.path, `category ${String(annotation["category_id"])}`);
    return;
  }
  const shape = shapeOf(annotation, info);
  if (!shape) {
    report.add("shape-degenerate", item.path, info.name);
    return;
  }
  const object: LabeledObject = { class: info.name, shape };
  if (annotation["iscrowd"] === 1 || annotation["iscrowd"] === true) object.crowd = true;
  if (typeof annotation["score"] === "number") object.confidence = annotation["score"];
  for (const flag of ["occluded", "truncated", "difficult"] as const) if (annotation[flag] === true || annotation[flag] === 1) object[flag] = true;
  const attributes = attributesOf(annotation["attributes"]);
  if (attributes) object.attributes = attributes;
  item.objects.push(object);
}

function attributesOf(value: unknown): LabeledObject["attributes"] | null {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return null;
  const kept: NonNullable<LabeledObject["attributes"]> = {};
  for (const [name, entry] of Object.entries(value)) {
    if (typeof entry === "string" || typeof entry === "number" || typeof entry === "boolean") kept[name] = entry;
    else if (Array.isArray(entry) && entry.every((part) => typeof part === "string")) kept[name] = entry;
  }
  return Object.keys(kept).length > 0 ? kept : null;
}

function numbers(value: unknown): number[] | null {
  return Array.isArray(value) && value.every((entry) => typeof entry === "number") ? (value) : null;
}

/** The most exact shape the annotation gives: keypoints, then segmentation, then bbox. Null where none is whole. */
function shapeOf(annotation: Annotation, info: ClassInfo): Shape | null {
  const corners = numbers(annotation["bbox"]);
  const box = corners && corners.length === 4 && (corners[2] as number) > 0 && (corners[3] as number) > 0
    ? { x: corners[0] as number, y: corners[1] as number, width: corners[2] as number, height: corners[3] as number }
    : null;
  const flat = numbers(annotation["keypoints"]);
  if (flat && flat.length >= 3 && flat.length % 3 === 0 && info.keypoints) {
    const points: Keypoint[] = [];
    for (let i = 0; i < flat.length; i += 3) {
      const v = flat[i + 2] === 2 ? 2 : flat[i + 2] === 1 ? 1 : 0;
      points.push({ x: flat[i] as number, y: flat[i + 1] as number, v: v });
    }
    if (points.some((p) => p.v > 0)) return { kind: "keypoints", points, ...(box ? { box } : {}) };
  }
  return segmentationShape(annotation["segmentation"]) ?? (box ? { kind: "box", ...box } : null);
}

function segmentationShape(segmentation: unknown): Shape | null {
  if (Array.isArray(segmentation)) {
    const rings = segmentation.map(numbers).filter((ring): ring is number[] => ring !== null && ring.length >= 6 && ring.length % 2 === 0);
    return rings.length > 0 ? { kind: "polygon", parts: rings.map((ring): Part => [ring]) } : null;
  }
  if (typeof segmentation !== "object" || segmentation === null) return null;
  const { size, counts } = segmentation as { size?: unknown; counts?: unknown };
  const dimensions = numbers(size);
  const runs = typeof counts === "string" ? decodeCounts(counts) : numbers(counts);
  if (!dimensions || dimensions.length !== 2 || !runs) return null;
  const [height, width] = dimensions as [number, number];
  return runsBounds(runs, height) ? { kind: "mask", width, height, counts: runs } : null;
}
