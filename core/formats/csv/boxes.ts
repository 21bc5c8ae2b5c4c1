/**
 * csv-boxes: one row an object, `filename,width,height,class,xmin,ymin,xmax,ymax` in any order, or six columns without
 * a header.
 */
import { extensionOf, isImagePath, type FileTree } from "../../model/file-tree";
import { shapeBounds } from "../../geometry/shape";
import type { Findings } from "../../model/finding";
import { blankItem, type Item, type Split } from "../../model/item";
import { splitFromFileName, splitFromName, splitFromPath } from "../../model/split-name";
import { baseName } from "../../model/file-tree";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { AnnotatedImages } from "../annotated-images";
import { UniqueNames } from "../unique-names";
import { csvRows, csvText, firstCells, isFileColumn, isSplitColumn } from "./table";

type Columns = {
  file: number;
  class: number;
  edges: [number, number, number, number];
  split: number;
  size: [number, number];
};

const edgeWords = [
  ["xmin", "x1", "x_min", "left"],
  ["ymin", "y1", "y_min", "top"],
  ["xmax", "x2", "x_max", "right"],
  ["ymax", "y2", "y_max", "bottom"],
] as const;
const classWords = ["class", "label", "class_name", "category", "name", "classname"];

/** Where a header's columns are; null where the row is no header of this format. */
export function boxColumns(header: readonly string[]): Columns | null {
  const names = header.map((name) => name.trim().toLowerCase());
  const find = (words: readonly string[]) => words.map((word) => names.indexOf(word)).find((at) => at >= 0) ?? -1;
  const edges = edgeWords.map(find) as Columns["edges"];
  const fileColumn = names.findIndex(isFileColumn);
  // `name` is the class beside a column for the file, and the file beside a column for the class.
  const file = fileColumn >= 0 ? fileColumn : names.indexOf("name");
  const classColumn = classWords.map((word) => names.indexOf(word)).find((at) => at >= 0 && at !== file) ?? -1;
  const box = {
    file,
    class: classColumn,
    edges,
    split: names.findIndex(isSplitColumn),
    size: [names.indexOf("width"), names.indexOf("height")] as [number, number],
  };
  return file >= 0 && box.class >= 0 && edges.every((at) => at >= 0) ? box : null;
}

const headless: Columns = { file: 0, edges: [1, 2, 3, 4], class: 5, split: -1, size: [-1, -1] };

/** True where six cells are a path, four numbers (or blanks) and a class. */
export function isHeadlessBox(row: readonly string[]): boolean {
  if (row.length !== 6 || !isImagePath(row[0] ?? "")) return false;
  const edges = row.slice(1, 5);
  return edges.every((cell) => cell === "") || edges.every((cell) => cell !== "" && Number.isFinite(Number(cell)));
}

/** One file's boxes by image: class number and four edges in turn. */
type ImageEntry = { split: Split | null; size: Item["declared"]; boxes: number[] };

async function readBoxes(files: FileTree, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const images = new AnnotatedImages<ImageEntry>(entries, report);
  const classes = new Map<string, number>();
  let relative = true;
  let boxes = 0;
  for (const { path } of entries.filter((entry) => ["csv", "tsv", "txt"].includes(extensionOf(entry.path)))) {
    let columns: Columns | null = null;
    const split = splitFromFileName(baseName(path));
    try {
      for await (const row of csvRows(files, path)) {
        if (!columns) {
          columns = boxColumns(row) ?? (isHeadlessBox(row) ? headless : null);
          if (!columns) break;
          if (columns !== headless) continue;
        }
        const name = row[columns.file] ?? "";
        if (name === "") continue;
        const entry = images.of(name, path, () => ({ split: null, size: undefined, boxes: [] }));
        entry.split ??=
          (columns.split >= 0 ? splitFromName(row[columns.split] ?? "") : null) ?? (columns.split >= 0 ? null : split);
        const size = columns.size.map((at) => Number(row[at] ?? NaN)) as [number, number];
        if (size[0] > 0 && size[1] > 0) entry.size = { width: size[0], height: size[1] };
        const label = row[columns.class] ?? "";
        const cells = columns.edges.map((at) => row[at] ?? "");
        if (label === "" && cells.every((cell) => cell === "")) continue;
        const edges = cells.map((cell) => (cell === "" ? NaN : Number(cell)));
        if (label === "" || edges.some((edge) => !Number.isFinite(edge))) {
          report.add(
            "shape-degenerate",
            name,
            label === "" ? "a box without a class" : `${label}: edges that are no numbers`,
          );
          entry.boxes.push(-1, 0, 0, 0, 0);
          continue;
        }
        if (!classes.has(label)) classes.set(label, classes.size);
        entry.boxes.push(classes.get(label) as number, ...edges);
        boxes++;
        if (edges.some((edge) => edge < 0 || edge > 1)) relative = false;
      }
    } catch (error) {
      report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
    }
    if (!columns && extensionOf(path) !== "txt")
      report.add("annotation-unreadable", path, "it has neither the columns of boxes nor six plain ones");
  }
  const names = [...classes.keys()];
  const itemOf = (path: string, entry: ImageEntry | undefined): Item => {
    const item: Item = {
      ...blankItem(path),
      split: entry?.split ?? splitFromPath(path),
      units: relative && boxes > 0 ? "relative" : "pixels",
    };
    if (!entry) return item;
    item.state = entry.boxes.length > 0 ? "labeled" : "empty";
    if (entry.size) item.declared = entry.size;
    for (let at = 0; at < entry.boxes.length; at += 5) {
      const [label, x1, y1, x2, y2] = entry.boxes.slice(at, at + 5) as [number, number, number, number, number];
      if (label >= 0)
        item.objects.push({
          class: names[label] as string,
          shape: { kind: "box", x: x1, y: y1, width: x2 - x1, height: y2 - y1 },
        });
    }
    return item;
  };
  return { classes: names.map((name) => ({ name })), items: images.items(itemOf) };
}

async function writeBoxes(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const rows: (string | number)[][] = [
    ["filename", "width", "height", "class", "xmin", "ymin", "xmax", "ymax", "split"],
  ];
  for await (const item of outgoing.items) {
    const folder = item.split ? `images/${item.split}` : "images";
    const path = `${folder}/${names.claim(folder, item.path)}`;
    await sink.picture(path, item);
    // An unlabeled image goes along and stands in no row; an empty one has a row without a box.
    if (item.state === "unlabeled") continue;
    const size = [path, item.size.width, item.size.height];
    if (item.objects.length === 0) rows.push([...size, "", "", "", "", "", item.split ?? ""]);
    for (const object of item.objects) {
      const box = shapeBounds(object.shape);
      if (box)
        rows.push([...size, object.class, box.x, box.y, box.x + box.width, box.y + box.height, item.split ?? ""]);
    }
  }
  await sink.write("annotations.csv", csvText(rows));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "annotations.csv: one row a box, edges in pixels from the top left corner, the far ones exclusive. A picture with a row without a box holds nothing; one without a row is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

export const csvBoxes: Format = {
  name: "csv-boxes",
  title: "CSV, one box a row",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 1e-9, relative: 1e-12 },
  training:
    "Point a trainer at annotations.csv; the paths in it start at its own folder, and the column split tells train from val.",
  loosePictures: true,
  options: [],
  async recognise(entries, peek) {
    for (const { path } of entries
      .filter((entry) => ["csv", "tsv", "txt"].includes(extensionOf(entry.path)))
      .slice(0, 20)) {
      const first = firstCells(await peek(path));
      if (boxColumns(first)) return { score: 0.95, reason: `${path} has columns for a file, a class and four edges` };
      if (isHeadlessBox(first))
        return { score: 0.85, reason: `${path} holds rows of a path, four numbers and a class` };
    }
    return { score: 0, reason: "no CSV with columns of boxes" };
  },
  read: (files, _options, report) => readBoxes(files, report),
  write: writeBoxes,
};
