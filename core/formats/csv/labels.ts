/** csv-labels: classes of whole images, and key–value fields, in one of the layouts docs/formats.md lists. */
import { baseName, extensionOf, isImagePath, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, carriesLabels, type Item, type Split } from "../../model/item";
import { splitFromFileName, splitFromName, splitFromPath } from "../../model/split-name";
import { AnnotatedImages } from "../annotated-images";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { UniqueNames } from "../unique-names";
import { boxColumns, isHeadlessBox } from "./boxes";
import { csvRows, csvText, firstCells, isFileColumn, isSplitColumn } from "./table";

const labelColumn = /^(labels?|class(es)?|categor(y|ies)|tags?)([_ ]?\d+)?$/i;
const setWord = /^(train(ing)?|val(id|idation)?|dev|test(ing)?|eval(uation)?|unassigned)$/i;
const sizeColumn = /^(width|height)$/i;

/** `[a,b]`, `"a,b"` or `a|b` as its names; one name where it is none of these. */
export function labelsOf(cell: string): string[] {
  const text = cell.trim();
  const list = /^\[(.*)\]$/s.exec(text)?.[1];
  if (list !== undefined)
    return list
      .split(",")
      .map((name) => name.trim().replace(/^(["'])(.*)\1$/s, "$2"))
      .filter((name) => name !== "");
  return text
    .split(text.includes("|") ? "|" : ",")
    .map((name) => name.trim())
    .filter((name) => name !== "");
}

type Layout =
  | { kind: "plain"; setFirst: boolean }
  | {
      kind: "header";
      file: number;
      split: number;
      labels: number[];
      lists: number[];
      others: number[];
      names: string[];
    };

/** How a file's rows are read, by its first row; null where they name no picture. */
export function labelLayout(first: readonly string[]): Layout | null {
  const names = first.map((name) => name.trim());
  const file = names.findIndex(isFileColumn);
  if (file >= 0 && !isImagePath(names[file] ?? "") && names.length > 1) {
    const split = names.findIndex(isSplitColumn);
    const rest = names
      .map((_, at) => at)
      .filter((at) => at !== file && at !== split && !sizeColumn.test(names[at] ?? ""));
    const labelColumns = rest.filter((at) => labelColumn.test(names[at] ?? ""));
    const lists = labelColumns.filter((at) => /^(labels|classes|categories|tags)$/i.test(names[at] ?? ""));
    return {
      kind: "header",
      file,
      split,
      labels: labelColumns,
      lists,
      others: rest.filter((at) => !labelColumns.includes(at)),
      names,
    };
  }
  if (setWord.test(names[0] ?? "") && isImagePath(names[1] ?? "")) return { kind: "plain", setFirst: true };
  return isImagePath(names[0] ?? "") && names.length > 1 ? { kind: "plain", setFirst: false } : null;
}

type ImageEntry = { split: Split | null; classes: string[]; fields: Item["fields"] };

function fieldOf(cell: string): string | string[] {
  if (!/^\[\s*"/.test(cell)) return cell;
  try {
    const list: unknown = JSON.parse(cell);
    return Array.isArray(list) && list.every((entry) => typeof entry === "string") ? list : cell;
  } catch {
    return cell;
  }
}

/** Columns that hold nothing but 0 and 1 are one class each, unless a column of labels is there too. */
function areFlags(rows: readonly string[][], columns: readonly number[]): boolean {
  return (
    columns.length > 0 &&
    rows.length > 0 &&
    rows.every((row) => columns.every((at) => ["0", "1", "0.0", "1.0"].includes(row[at] ?? "")))
  );
}

function take(entry: ImageEntry, names: Iterable<string>): void {
  for (const name of names) if (name !== "" && !entry.classes.includes(name)) entry.classes.push(name);
}

async function readFile(
  files: FileTree,
  path: string,
  images: AnnotatedImages<ImageEntry>,
  order: Set<string>,
): Promise<boolean> {
  const fromName = splitFromFileName(baseName(path));
  const of = (name: string) => images.of(name, path, () => ({ split: null, classes: [], fields: {} }));
  let layout: Layout | null = null;
  const waiting: string[][] = [];
  for await (const row of csvRows(files, path)) {
    if (!layout) {
      layout = boxColumns(row) || isHeadlessBox(row) ? null : labelLayout(row);
      if (!layout) return false;
      if (layout.kind === "header") continue;
    }
    if (layout.kind === "header") {
      waiting.push(row);
      continue;
    }
    const cells = layout.setFirst ? row.slice(1) : row;
    if (!cells[0]) continue;
    const entry = of(cells[0]);
    entry.split ??= layout.setFirst ? splitFromName(row[0] ?? "") : fromName;
    take(entry, cells.slice(1));
  }
  if (layout?.kind !== "header") return layout !== null;
  const { file, split, labels, lists, others, names } = layout;
  const flags = labels.length === 0 && areFlags(waiting, others);
  if (flags) for (const at of others) order.add(names[at] ?? "");
  for (const row of waiting) {
    if (!row[file]) continue;
    const entry = of(row[file]);
    entry.split ??= split >= 0 ? splitFromName(row[split] ?? "") : fromName;
    if (flags)
      take(
        entry,
        others.filter((at) => Number(row[at]) === 1).map((at) => names[at] ?? ""),
      );
    else for (const at of others) if (row[at]) entry.fields[names[at] ?? ""] = fieldOf(row[at]);
    for (const at of labels) take(entry, lists.includes(at) ? labelsOf(row[at] ?? "") : [row[at] ?? ""]);
    // Cells past the header's last name are further labels.
    if (labels.length > 0 && Math.max(...labels) === names.length - 1) take(entry, row.slice(names.length));
  }
  return true;
}

async function readLabels(files: FileTree, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const images = new AnnotatedImages<ImageEntry>(entries, report);
  const order = new Set<string>();
  for (const { path } of entries.filter((entry) => ["csv", "tsv"].includes(extensionOf(entry.path)))) {
    try {
      if (!(await readFile(files, path, images, order)))
        report.add("annotation-unreadable", path, "no column names a picture");
    } catch (error) {
      report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
    }
  }
  const itemOf = (path: string, entry: ImageEntry | undefined): Item => {
    const item: Item = { ...blankItem(path), split: entry?.split ?? splitFromPath(path) };
    if (!entry) return item;
    item.classes = entry.classes;
    item.fields = entry.fields;
    item.state = carriesLabels(item) ? "labeled" : "empty";
    return item;
  };
  for await (const item of images.items(itemOf)) for (const name of item.classes) order.add(name);
  return { classes: [...order].map((name) => ({ name })), items: images.items(itemOf) };
}

async function writeLabels(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const rows: { path: string; split: string; classes: string[]; fields: Item["fields"] }[] = [];
  const keys = new Set<string>();
  let most = 1;
  for await (const item of outgoing.items) {
    const folder = item.split ? `images/${item.split}` : "images";
    const path = `${folder}/${names.claim(folder, item.path)}`;
    await sink.picture(path, item);
    if (item.state === "unlabeled") continue;
    rows.push({ path, split: item.split ?? "", classes: item.classes, fields: item.fields });
    for (const key of Object.keys(item.fields)) keys.add(key);
    most = Math.max(most, item.classes.length);
  }
  const header = [
    "filename",
    "split",
    ...Array.from({ length: most }, (_, n) => (n === 0 ? "label" : `label_${n + 1}`)),
    ...keys,
  ];
  const table = rows.map(({ path, split, classes, fields }) => [
    path,
    split,
    ...Array.from({ length: most }, (_, n) => classes[n] ?? ""),
    ...[...keys].map((key) => (Array.isArray(fields[key]) ? JSON.stringify(fields[key]) : (fields[key] ?? ""))),
  ]);
  await sink.write("labels.csv", csvText([header, ...table]));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "labels.csv: one row a picture with its classes and fields. A row without any holds nothing; a picture without a row is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

/** Names that would be read as a column of another meaning cannot name a field. */
function isReserved(key: string): boolean {
  return (
    isFileColumn(key) ||
    isSplitColumn(key) ||
    labelColumn.test(key) ||
    sizeColumn.test(key) ||
    key !== key.trim() ||
    key === ""
  );
}

export const csvLabels: Format = {
  name: "csv-labels",
  title: "CSV, classes of images",
  carries: {
    shapes: [],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "none",
    fields: true,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training:
    "Point a trainer at labels.csv; the paths in it start at its own folder, and the column split tells train from val.",
  loosePictures: true,
  options: [],
  refit(item, _options, report) {
    const kept = Object.entries(item.fields).filter(([key, value]) => !isReserved(key) && value.length > 0);
    if (kept.length === Object.keys(item.fields).length) return item;
    report.add("loss-caption", item.path, "a field without a value, or with the name of a column");
    return { ...item, fields: Object.fromEntries(kept) };
  },
  async recognise(entries, peek) {
    for (const { path } of entries.filter((entry) => ["csv", "tsv"].includes(extensionOf(entry.path))).slice(0, 20)) {
      const first = firstCells(await peek(path));
      if (boxColumns(first) || isHeadlessBox(first)) continue;
      const layout = labelLayout(first);
      if (layout)
        return { score: layout.kind === "header" ? 0.9 : 0.75, reason: `${path} names a picture in each row` };
    }
    return { score: 0, reason: "no CSV that names pictures" };
  },
  read: (files, _options, report) => readLabels(files, report),
  write: writeLabels,
};
