/** COCO JSON: instances, keypoints, captions. The traps are listed in docs/formats.md. */
import { z } from "zod";
import { baseName, extensionOf, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type ClassInfo, type Item, type Licence, type Split } from "../../model/item";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Options, Reading } from "../format";
import { ImageIndex } from "../image-index";
import { JsonUnreadable, readTopLevelArrays } from "../json-elements";
import { AnnotationRows } from "./annotation-rows";
import { AnnotationStore } from "./annotation-store";

const idSchema = z.union([z.string(), z.number()]);
const licenceSchema = z.object({ id: idSchema.transform(String), name: z.string(), url: z.string().optional() });
const imageSchema = z.object({
  id: idSchema,
  file_name: z.string(),
  width: z.number().nullish().catch(null),
  height: z.number().nullish().catch(null),
  license: idSchema.transform(String).optional().catch(undefined),
});
const categorySchema = z.object({
  id: idSchema.transform(String),
  name: z.union([z.string(), z.number()]).transform(String),
  supercategory: z.string().optional().catch(undefined),
  keypoints: z.array(z.string()).optional().catch(undefined),
  skeleton: z
    .array(z.tuple([z.number(), z.number()]))
    .optional()
    .catch(undefined),
});
type ListedImage = z.infer<typeof imageSchema>;

/** One annotation file, read: its categories by id and its annotations. */
type Sheet = {
  path: string;
  split: Split | null;
  categories: Map<string, ClassInfo>;
  licences: Map<string, Licence>;
  annotations: AnnotationStore;
};

/** An image some sheet lists, with where its annotations are. */
type Listed = {
  path: string;
  present: boolean;
  split: Split | null;
  declared: Item["declared"];
  licence: Licence | undefined;
  says: { sheet: Sheet; image: number }[];
};

/** True where the first bytes of a JSON file look like this format. */
export function looksLikeCoco(start: string): boolean {
  return /"(images|annotations|categories)"\s*:\s*\[/.test(start);
}

async function readSheet(
  files: FileTree,
  path: string,
  report: Findings,
): Promise<{ sheet: Sheet; images: ListedImage[] } | null> {
  const sheet: Sheet = {
    path,
    split: splitFromFileName(baseName(path)) ?? splitFromPath(path),
    categories: new Map(),
    licences: new Map(),
    annotations: new AnnotationStore(),
  };
  const images: ListedImage[] = [];
  const namesNoImage = () => report.add("shape-degenerate", path, "an entry of annotations names no image");
  try {
    const keys = await readTopLevelArrays(files.stream(path), {
      images: (element) => {
        const parsed = imageSchema.safeParse(element);
        if (parsed.success) images.push(parsed.data);
        else report.add("annotation-unreadable", path, "an entry of images has no id or file_name");
      },
      licenses: (element) => {
        const parsed = licenceSchema.safeParse(element);
        if (!parsed.success || parsed.data.name === "") return;
        const { id, name, url } = parsed.data;
        sheet.licences.set(id, url ? { name, url } : { name });
      },
      categories: (element) => {
        const parsed = categorySchema.safeParse(element);
        if (!parsed.success) return;
        const { id, name, keypoints, skeleton, supercategory } = parsed.data;
        sheet.categories.set(id, {
          name,
          sourceId: id,
          ...(supercategory ? { supercategory } : {}),
          ...(keypoints && keypoints.length > 0 ? { keypoints } : {}),
          ...(skeleton && skeleton.length > 0 ? { skeleton } : {}),
        });
      },
      annotations: {
        rows: new AnnotationRows(sheet.annotations, namesNoImage),
        element: (element) => {
          if (!sheet.annotations.add(element)) namesNoImage();
        },
      },
    });
    if (keys.includes("images") && (keys.includes("annotations") || keys.includes("categories")))
      return { sheet, images };
    report.add("annotation-unreadable", path, "it is JSON, but not COCO: it has no images and annotations lists");
  } catch (error) {
    if (!(error instanceof JsonUnreadable)) throw error;
    report.add("annotation-unreadable", path, error.message);
  }
  return null;
}

/** Reads every COCO file of the tree; several merge by class name, images join by `image_id`. */
export async function readCoco(files: FileTree, options: Options, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const index = new ImageIndex(entries);
  const classes = new Map<string, ClassInfo>();
  const listed = new Map<string, Listed>();

  for (const { path } of entries.filter((entry) => extensionOf(entry.path) === "json")) {
    const read = await readSheet(files, path, report);
    if (!read) continue;
    const { sheet, images } = read;
    for (const info of sheet.categories.values()) if (!classes.has(info.name)) classes.set(info.name, info);
    const known = new Set<number>();
    for (const image of images) {
      const number = sheet.annotations.images.of(image.id);
      if (known.has(number)) continue;
      known.add(number);
      list(image, sheet).says.push({ sheet, image: number });
    }
    sheet.annotations.images.names.forEach((id, number) => {
      const count = known.has(number) ? 0 : sheet.annotations.countOf(number);
      if (count > 0) report.add("image-missing", path, `annotations name image ${id}, which no list has`, count);
    });
  }

  function list(image: ListedImage, sheet: Sheet): Listed {
    const match = index.find(image.file_name, sheet.path);
    const found = match !== null && "path" in match;
    const name = image.file_name.replaceAll("\\", "/");
    const key = found ? match.path : `${sheet.split ?? ""}#${name}`;
    const known = listed.get(key);
    if (known) return known;
    if (match && "ambiguous" in match)
      report.add("image-missing", image.file_name, `several pictures fit: ${match.ambiguous.slice(0, 3).join(", ")}`);
    else if (!match) report.add("image-missing", image.file_name, `named in ${sheet.path}`);
    const entry: Listed = {
      path: found ? match.path : name,
      present: found,
      split: sheet.split ?? splitFromPath(found ? match.path : name),
      declared: image.width && image.height ? { width: image.width, height: image.height } : undefined,
      licence: image.license === undefined ? undefined : sheet.licences.get(image.license),
      says: [],
    };
    listed.set(key, entry);
    return entry;
  }

  function itemOf({ path, present, split, declared, licence, says }: Listed): Item {
    const item = blankItem(path);
    item.present = present;
    item.split = split;
    item.state = options["unannotated"] === "unlabeled" ? "unlabeled" : "empty";
    if (declared) item.declared = declared;
    if (licence) item.licence = licence;
    for (const { sheet, image } of says) {
      for (const row of sheet.annotations.rowsOf(image)) {
        // Something was said of this image, even where it cannot be used; settling tells whether anything is left.
        item.state = "labeled";
        const caption = sheet.annotations.captionAt(row);
        if (caption !== null) {
          item.captions.push(caption);
          continue;
        }
        const category = sheet.annotations.categoryAt(row);
        const info = sheet.categories.get(category);
        const object = info ? sheet.annotations.objectAt(row, info) : null;
        if (!info) report.add("class-unknown", path, `category ${category}`);
        else if (!object) report.add("shape-degenerate", path, info.name);
        else item.objects.push(object);
      }
    }
    return item;
  }

  async function* items(): AsyncIterable<Item> {
    for (const entry of listed.values()) yield itemOf(entry);
    for (const path of index.paths) if (!listed.has(path)) yield { ...blankItem(path), split: splitFromPath(path) };
  }
  return { classes: [...classes.values()], items: items() };
}
