/** One XML an image. Whether pixels count from 1 or 0 is decided for a whole source at once; see docs/formats.md. */
import { XMLParser } from "fast-xml-parser";
import { z } from "zod";
import { baseName, extensionOf, readText, textOf, withoutExtension, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type ClassInfo, type Item } from "../../model/item";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Options, Reading } from "../format";
import { ImageIndex } from "../image-index";
import { isSegmentation, ObjectMasks } from "./object-masks";

const parser = new XMLParser({
  ignoreAttributes: true,
  parseTagValue: false,
  processEntities: true,
  // Also makes numeric character references into the signs they stand for.
  htmlEntities: true,
  // Text and CDATA of one element are joined; blanks between them belong to it.
  trimValues: false,
  isArray: (name) => name === "object",
});

const number = z
  .string()
  .trim()
  .regex(/^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/)
  .transform(Number);
const flag = z
  .unknown()
  .optional()
  .transform((value) => typeof value === "string" && /^\s*(1|true)\s*$/i.test(value));
const objectSchema = z.object({
  name: z.coerce.string().transform((name) => name.trim()),
  bndbox: z.object({ xmin: number, ymin: number, xmax: number, ymax: number }),
  difficult: flag,
  truncated: flag,
  occluded: flag,
  pose: z.coerce.string().optional().catch(undefined),
});
const documentSchema = z.object({
  annotation: z.object({
    filename: z.coerce.string().optional(),
    size: z.object({ width: number, height: number }).optional().catch(undefined),
    object: z.array(z.unknown()).optional().default([]),
  }),
});

type Sheet = {
  path: string;
  filename: string | undefined;
  size: { width: number; height: number } | undefined;
  objects: unknown[];
};

async function parseSheet(files: FileTree, path: string, report: Findings): Promise<Sheet | null> {
  const bytes = await files.read(path);
  const head = new TextDecoder("latin1").decode(bytes.subarray(0, 200));
  const encoding = /encoding=["']([\w-]+)["']/.exec(head)?.[1];
  try {
    // A sheet that declares nothing, or declares UTF-8 and is not, is read as Latin-1.
    const text = (
      encoding && !/^utf-?8$/i.test(encoding) ? new TextDecoder(encoding).decode(bytes) : textOf(bytes)
    ).replace(/^\uFEFF/, "");
    if (/<!ENTITY/i.test(text)) throw new Error("it defines entities of its own");
    const { annotation } = documentSchema.parse(parser.parse(text, true));
    return { path, filename: annotation.filename, size: annotation.size, objects: annotation.object };
  } catch (error) {
    report.add(
      "annotation-unreadable",
      path,
      error instanceof z.ZodError ? "it has no <annotation>" : String((error as Error).message).slice(0, 80),
    );
    return null;
  }
}

/** Whether coordinates count from 1 with inclusive edges, and how that was decided. */
export function decideOrigin(boxes: Iterable<{ xmin: number; ymin: number; xmax: number; ymax: number }>): {
  origin: 0 | 1;
  decided: boolean;
} {
  let thin = false;
  for (const box of boxes) {
    if (box.xmin === 0 || box.ymin === 0) return { origin: 0, decided: true };
    if (box.xmin === box.xmax || box.ymin === box.ymax) thin = true;
  }
  return { origin: 1, decided: thin };
}

export async function readVoc(files: FileTree, options: Options, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const index = new ImageIndex(entries.filter(({ path }) => !isSegmentation(path)));
  const masks = new ObjectMasks(
    files,
    entries.map(({ path }) => path),
    report,
  );
  const sheets: Sheet[] = [];
  for (const { path } of entries.filter((entry) => extensionOf(entry.path) === "xml")) {
    const sheet = await parseSheet(files, path, report);
    if (sheet) sheets.push(sheet);
  }
  const setSplits = await readImageSets(
    files,
    entries.map((entry) => entry.path),
  );
  const asked = options["origin"];
  const boxes = sheets.flatMap((sheet) =>
    sheet.objects.flatMap((object) => objectSchema.safeParse(object).data?.bndbox ?? []),
  );
  const { origin, decided } =
    asked === "zero"
      ? { origin: 0, decided: true }
      : asked === "one"
        ? { origin: 1, decided: true }
        : decideOrigin(boxes);
  if (!decided && boxes.length > 0)
    report.add("format-ambiguous", "", "pixels are taken to count from 1, as published; origin=zero reads them from 0");

  const classes: ClassInfo[] = [];
  const byStem = new Map<string, string[]>();
  for (const path of index.paths) {
    const stem = withoutExtension(baseName(path));
    byStem.set(stem, [...(byStem.get(stem) ?? []), path]);
  }
  const sheetOf = new Map<string, Sheet>();
  const absent: Sheet[] = [];
  for (const sheet of sheets) {
    const stem = withoutExtension(baseName(sheet.path));
    const candidates = byStem.get(stem) ?? [];
    const beside = candidates.find((path) => withoutExtension(path) === withoutExtension(sheet.path));
    const match = beside ?? (candidates.length === 1 ? candidates[0] : undefined) ?? named(index, sheet, candidates);
    if (match) sheetOf.set(match, sheet);
    else absent.push(sheet);
    if (!match)
      report.add(
        "image-missing",
        sheet.path,
        candidates.length > 1
          ? `several pictures fit: ${candidates.slice(0, 3).join(", ")}`
          : `no picture called ${stem}`,
      );
    for (const object of sheet.objects) {
      const name = objectSchema.safeParse(object).data?.name;
      if (name && !classes.some((info) => info.name === name)) classes.push({ name });
    }
  }

  async function itemOf(path: string, sheet: Sheet | undefined): Promise<Item> {
    const item = blankItem(path);
    item.split = setSplits.get(withoutExtension(baseName(path))) ?? splitFromPath(path);
    if (!sheet) return item;
    item.state = "empty";
    if (sheet.size && sheet.size.width > 0 && sheet.size.height > 0) item.declared = sheet.size;
    const nths: number[] = [];
    for (const [n, raw] of sheet.objects.entries()) {
      const parsed = objectSchema.safeParse(raw);
      item.state = "labeled";
      if (!parsed.success || parsed.data.name === "") {
        report.add("shape-degenerate", sheet.path, "an object without a name or a box of numbers");
        continue;
      }
      const { name, bndbox, difficult, truncated, occluded, pose } = parsed.data;
      nths.push(n + 1);
      item.objects.push({
        class: name,
        shape: {
          kind: "box",
          x: bndbox.xmin - origin,
          y: bndbox.ymin - origin,
          width: bndbox.xmax - bndbox.xmin + origin,
          height: bndbox.ymax - bndbox.ymin + origin,
        },
        ...(difficult ? { difficult } : {}),
        ...(truncated ? { truncated } : {}),
        ...(occluded ? { occluded } : {}),
        ...(pose && !/^(unspecified|unknown)$/i.test(pose.trim()) ? { attributes: { pose: pose.trim() } } : {}),
      });
    }
    item.objects = await masks.give(withoutExtension(baseName(sheet.path)), item.objects, nths, item.declared);
    return item;
  }

  async function* items(): AsyncIterable<Item> {
    for (const path of index.paths) yield await itemOf(path, sheetOf.get(path));
    for (const sheet of absent) {
      const named = sheet.filename?.trim() || `${withoutExtension(baseName(sheet.path))}.jpg`;
      yield { ...(await itemOf(named.replaceAll("\\", "/"), sheet)), present: false };
    }
  }
  return { classes, items: items() };
}

function named(index: ImageIndex, sheet: Sheet, candidates: string[]): string | undefined {
  const match = index.find(candidates.length > 1 ? withoutExtension(sheet.path) : (sheet.filename ?? ""), sheet.path);
  return match && "path" in match ? match.path : undefined;
}

async function readImageSets(files: FileTree, paths: string[]): Promise<Map<string, "train" | "val" | "test">> {
  const splits = new Map<string, "train" | "val" | "test">();
  for (const path of paths) {
    if (!/(^|\/)ImageSets\/Main\/[^/]+\.txt$/i.test(path)) continue;
    const split = splitFromFileName(withoutExtension(baseName(path)));
    if (!split || baseName(path).includes("_") || baseName(path).toLowerCase() === "trainval.txt") continue;
    for (const line of (await readText(files, path)).split(/\r?\n/))
      if (line.trim() !== "") splits.set(line.trim(), split);
  }
  return splits;
}
