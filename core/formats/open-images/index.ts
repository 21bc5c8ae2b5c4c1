/**
 * open-images: boxes and image-level labels as CSV with class codes, relative edges in the order XMin, XMax, YMin,
 * YMax.
 */
import { baseName, extensionOf, isImagePath, withoutExtension, type FileTree } from "../../model/file-tree";
import { shapeBounds } from "../../geometry/shape";
import type { Findings } from "../../model/finding";
import { blankItem, type Item, type LabeledObject, type Split } from "../../model/item";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import { csvRows, csvText } from "../csv/table";
import { keepAttributes } from "../fit";
import type { Format, Options, Outgoing, PackageSink, Reading, SizedItem } from "../format";
import { UniqueNames } from "../unique-names";

type ImageEntry = { split: Split | null; objects: LabeledObject[]; classes: string[]; touched: boolean };

const descriptionFile = /class-descriptions[^/]*\.csv$/i;

async function readDescriptions(
  files: FileTree,
  paths: readonly string[],
  report: Findings,
): Promise<Map<string, string> | null> {
  const path = paths.find((candidate) => descriptionFile.test(candidate));
  if (path === undefined) return null;
  const names = new Map<string, string>();
  try {
    for await (const [code = "", name = ""] of csvRows(files, path))
      if (code !== "" && code !== "LabelName") names.set(code, name);
  } catch (error) {
    report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
  }
  return names;
}

/** Pictures by base name without extension; of several the one in the annotation's own split. */
class Stems {
  private readonly byStem = new Map<string, string[]>();
  constructor(readonly paths: readonly string[]) {
    for (const path of paths) {
      const stem = withoutExtension(baseName(path));
      const known = this.byStem.get(stem);
      if (known) known.push(path);
      else this.byStem.set(stem, [path]);
    }
  }
  find(stem: string, split: Split | null): string | string[] | null {
    const paths = this.byStem.get(stem) ?? [];
    if (paths.length <= 1) return paths[0] ?? null;
    const same = paths.filter((path) => splitFromPath(path) === split);
    return same.length === 1 && same[0] !== undefined ? same[0] : paths;
  }
}

async function readOpenImages(files: FileTree, report: Findings): Promise<Reading> {
  const paths = (await files.entries()).map((entry) => entry.path);
  const stems = new Stems(paths.filter(isImagePath));
  const descriptions = await readDescriptions(files, paths, report);
  const codes = new Set<string>(descriptions?.keys());
  const byPath = new Map<string, ImageEntry>();
  const absent = new Map<string, ImageEntry>();

  const entryOf = (id: string, split: Split | null, from: string): ImageEntry => {
    const found = stems.find(id, split);
    const present = typeof found === "string";
    const home = present ? byPath : absent;
    const key = present ? found : `${split ?? ""}/${id}.jpg`.replace(/^\//, "");
    const known = home.get(key);
    if (known) return known;
    if (!present)
      report.add(
        "image-missing",
        id,
        found ? `several pictures fit: ${found.slice(0, 3).join(", ")}` : `named in ${from}`,
      );
    const labels: ImageEntry = { split, objects: [], classes: [], touched: false };
    home.set(key, labels);
    return labels;
  };
  const nameOf = (code: string, id: string): string | null => {
    if (!descriptions) codes.add(code);
    const name = descriptions ? descriptions.get(code) : code;
    if (name === undefined || name === "") report.add("class-unknown", id, `code ${code}`);
    return name ? name : null;
  };

  for (const path of paths.filter(
    (candidate) => extensionOf(candidate) === "csv" && !descriptionFile.test(candidate),
  )) {
    const split = splitFromFileName(baseName(path)) ?? splitFromPath(path);
    let header: string[] | null = null;
    try {
      for await (const row of csvRows(files, path)) {
        if (!header) {
          header = row.map((cell) => cell.toLowerCase());
          if (!header.includes("imageid") || !header.includes("labelname")) break;
          continue;
        }
        const columns = header;
        const cell = (name: string) => row[columns.indexOf(name)] ?? "";
        const id = cell("imageid");
        const labels = entryOf(id, split, path);
        const confidence = cell("confidence") === "" ? 1 : Number(cell("confidence"));
        const boxed = columns.includes("xmin");
        // Confidence 0 on an image-level label says that the class was looked for and is not there.
        if (!boxed && confidence === 0) continue;
        const name = nameOf(cell("labelname"), id);
        labels.touched = true;
        if (name === null) continue;
        if (!boxed) {
          if (!labels.classes.includes(name)) labels.classes.push(name);
          continue;
        }
        const [x1, x2, y1, y2] = ["xmin", "xmax", "ymin", "ymax"].map((edge) =>
          cell(edge) === "" ? NaN : Number(cell(edge)),
        ) as [number, number, number, number];
        const is = (column: string) => cell(column) === "1";
        const attributes = {
          ...(is("isdepiction") ? { depiction: true } : {}),
          ...(is("isinside") ? { inside: true } : {}),
        };
        labels.objects.push({
          class: name,
          shape: { kind: "box", x: x1, y: y1, width: x2 - x1, height: y2 - y1 },
          ...(is("isoccluded") ? { occluded: true } : {}),
          ...(is("istruncated") ? { truncated: true } : {}),
          ...(is("isgroupof") ? { crowd: true } : {}),
          ...(confidence !== 1 && Number.isFinite(confidence) ? { confidence } : {}),
          ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
        });
      }
    } catch (error) {
      report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
    }
  }
  if (!descriptions && codes.size > 0)
    report.add("classes-missing", "", "no class-descriptions.csv; codes stand as names");

  const itemOf = (path: string, labels: ImageEntry | undefined, present: boolean): Item => {
    const item: Item = {
      ...blankItem(path),
      present,
      split: splitFromPath(path) ?? labels?.split ?? null,
      units: "relative",
    };
    if (labels?.touched) Object.assign(item, { state: "labeled", objects: labels.objects, classes: labels.classes });
    return item;
  };
  async function* items(): AsyncIterable<Item> {
    for (const path of stems.paths) yield itemOf(path, byPath.get(path), true);
    for (const [path, labels] of absent) yield itemOf(path, labels, false);
  }
  const names = [...new Set([...codes].map((code) => descriptions?.get(code) ?? code))].filter((name) => name !== "");
  return { classes: names.map((name) => ({ name })), items: items() };
}

const boxHeader = [
  "ImageID",
  "Source",
  "LabelName",
  "Confidence",
  "XMin",
  "XMax",
  "YMin",
  "YMax",
  "IsOccluded",
  "IsTruncated",
  "IsGroupOf",
  "IsDepiction",
  "IsInside",
];

async function writeOpenImages(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const codes = new Map(outgoing.classes.map((info, n) => [info.name, `/c/${String(n + 1).padStart(4, "0")}`]));
  const tables = new Map<Split | "", { boxes: (string | number)[][]; labels: (string | number)[][] }>();
  for await (const item of outgoing.items) {
    const split = item.split ?? "";
    // One base name over all folders: an ImageID names a picture without its folder.
    const fileName = names.claim("", item.path);
    const id = withoutExtension(fileName);
    await sink.picture(`${split === "" ? "images" : split}/${fileName}`, item);
    const table = tables.get(split) ?? { boxes: [], labels: [] };
    tables.set(split, table);
    for (const object of item.objects) {
      const box = shapeBounds(object.shape);
      if (!box) continue;
      const { width, height } = item.size;
      const flag = (value: unknown) => (value === true ? 1 : 0);
      table.boxes.push([
        id,
        "larder",
        codes.get(object.class) ?? "",
        object.confidence ?? 1,
        box.x / width,
        (box.x + box.width) / width,
        box.y / height,
        (box.y + box.height) / height,
        flag(object.occluded),
        flag(object.truncated),
        flag(object.crowd),
        flag(object.attributes?.["depiction"]),
        flag(object.attributes?.["inside"]),
      ]);
    }
    for (const name of item.classes) table.labels.push([id, "larder", codes.get(name) ?? "", 1]);
  }
  for (const [split, { boxes, labels }] of tables) {
    const prefix = split === "" ? "" : `${split}-`;
    if (boxes.length > 0 || labels.length === 0)
      await sink.write(`${prefix}annotations-bbox.csv`, csvText([boxHeader, ...boxes]));
    if (labels.length > 0)
      await sink.write(`${prefix}annotations-human-imagelabels.csv`, csvText([boxHeader.slice(0, 4), ...labels]));
  }
  await sink.write("class-descriptions.csv", csvText([...codes].map(([name, code]) => [code, name])));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "One CSV of boxes and one of image-level labels a split; ImageID is a picture's base name, LabelName a code of class-descriptions.csv. Edges are shares of the picture's size, in the order XMin, XMax, YMin, YMax.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

/** A confidence of 1 is what every row says; attributes that are not true are not said. */
function refit(whole: SizedItem, _options: Options, report: Findings): SizedItem {
  const item = keepAttributes(whole, (_name, value) => typeof value === "boolean", report);
  const objects = item.objects.map((object): LabeledObject => {
    const { confidence, attributes, ...rest } = object;
    const flags = Object.entries(attributes ?? {}).filter(([, value]) => value === true);
    return {
      ...rest,
      ...(confidence === undefined || confidence === 1 ? {} : { confidence }),
      ...(flags.length > 0 ? { attributes: Object.fromEntries(flags) } : {}),
    };
  });
  return { ...item, objects };
}

export const openImages: Format = {
  name: "open-images",
  title: "Open Images CSV",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: ["crowd", "occluded", "truncated", "confidence"],
    attributes: ["depiction", "inside"],
    captions: "none",
    fields: false,
    imageClasses: "many",
    noSplit: true,
    empty: false,
  },
  rounding: { pixels: 0, relative: 1e-9 },
  training:
    "For each split, point a trainer at the folder of its name and the tables whose names begin with it; class-descriptions.csv has the names.",
  loosePictures: true,
  options: [],
  refit,
  async recognise(entries, peek) {
    for (const { path } of entries.filter((entry) => extensionOf(entry.path) === "csv").slice(0, 20)) {
      if (/^\uFEFF?"?ImageID"?\s*[,;\t].*LabelName/i.test((await peek(path)).split(/\r?\n/, 1)[0] ?? ""))
        return { score: 0.96, reason: `${path} has the columns ImageID and LabelName` };
    }
    return { score: 0, reason: "no CSV with the columns ImageID and LabelName" };
  },
  read: (files, _options, report) => readOpenImages(files, report),
  write: writeOpenImages,
};
