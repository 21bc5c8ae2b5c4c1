/** image-list: .lst rows `index, labels…, path`, and the same packed into RecordIO. */
import {
  baseName,
  extensionOf,
  folderOf,
  isImagePath,
  readText,
  withoutExtension,
  type FileTree,
  type Spool,
} from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type Inside, type Item } from "../../model/item";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Carries, Format, Options, Outgoing, PackageSink, Reading } from "../format";
import { readClassList } from "../class-list";
import { AnnotatedImages } from "../annotated-images";
import { encodeRecord, readRecords } from "../recordio/records";
import { UniqueNames } from "../unique-names";
import { areDetections, detections, detectionVector, labelVector } from "./label-vector";

type Row = { index: number; vector: number[]; path: string };

function rowOf(line: string): Row | null {
  const cells = line.split("\t");
  const [index, path] = [Number(cells[0]), cells[cells.length - 1]];
  if (cells.length < 2 || !path || cells[0] === "" || !Number.isFinite(index)) return null;
  return {
    index,
    vector: cells.slice(1, -1).map((cell) => (cell.trim() === "" ? NaN : Number(cell))),
    path: path.trim(),
  };
}

type ImageEntry = { split: Item["split"]; vector: number[]; boxes: boolean; inside?: Inside };

async function readImageList(files: FileTree, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const paths = entries.map((entry) => entry.path);
  const packed: { path: string; annotation: ImageEntry }[] = [];
  const images = new AnnotatedImages<{ annotation: ImageEntry | null }>(entries, report);
  const recordFiles = paths.filter((path) => extensionOf(path) === "rec");
  const lists = paths.filter((path) => extensionOf(path) === "lst");

  const rowsOf = async (path: string): Promise<Row[]> => {
    const rows: Row[] = [];
    (await readText(files, path)).split(/\r?\n/).forEach((line, n) => {
      if (line.trim() === "") return;
      const row = rowOf(line);
      if (row) rows.push(row);
      else report.add("annotation-unreadable", path, `line ${n + 1} is no row of an index, labels and a path`);
    });
    return rows;
  };
  for (const path of lists) {
    const rows = await rowsOf(path);
    const boxes = areDetections(rows.map((row) => row.vector));
    const split = splitFromFileName(baseName(path)) ?? splitFromPath(path);
    const records = recordFiles.find((candidate) => withoutExtension(candidate) === withoutExtension(path));
    const names = new Map(rows.map((row) => [row.index, row.path]));
    if (records !== undefined) await readPacked(records, split, names);
    else
      for (const row of rows)
        images.of(row.path, path, () => ({ annotation: null })).annotation = { split, vector: row.vector, boxes };
  }
  for (const path of recordFiles)
    if (!lists.some((list) => withoutExtension(list) === withoutExtension(path)))
      await readPacked(path, splitFromFileName(baseName(path)) ?? splitFromPath(path), new Map());

  async function readPacked(path: string, split: Item["split"], names: ReadonlyMap<number, string>): Promise<void> {
    const rows: { path: string; annotation: ImageEntry }[] = [];
    try {
      for await (const { id, labels, pieces } of readRecords(files.stream(path))) {
        const name =
          names.get(id) ??
          `${folderOf(path) === "" ? "" : `${folderOf(path)}/`}${withoutExtension(baseName(path))}/${String(id).padStart(8, "0")}.jpg`;
        rows.push({ path: name, annotation: { split, vector: labels, boxes: false, inside: { file: path, pieces } } });
      }
    } catch (error) {
      report.add("annotation-unreadable", path, `${String((error as Error).message)}; the records before come in`);
    }
    const boxes = areDetections(rows.map(({ annotation: { vector } }) => vector));
    for (const entry of rows) packed.push({ path: entry.path, annotation: { ...entry.annotation, boxes } });
  }

  const listedNames = await readClassList(files, paths);
  const everything = async function* (): AsyncIterable<ImageEntry> {
    for (const entry of packed) yield entry.annotation;
    for (const entry of images.annotations()) if (entry.annotation) yield entry.annotation;
  };
  let highest = -1;
  if (!listedNames)
    for await (const { vector, boxes } of everything())
      for (const number of boxes ? detections(vector).map((entry) => entry.number) : vector)
        if (Number.isInteger(number) && number < 100_000) highest = Math.max(highest, number);
  const names = listedNames ?? Array.from({ length: highest + 1 }, (_, n) => `class_${n}`);
  if (!listedNames && names.length > 0) report.add("classes-missing", "", `class_0 … class_${names.length - 1}`);

  const itemOf = (path: string, annotation: ImageEntry | null | undefined): Item => {
    const item: Item = { ...blankItem(path), split: annotation?.split ?? splitFromPath(path), units: "relative" };
    if (!annotation) return item;
    if (annotation.inside) item.inside = annotation.inside;
    item.state = "empty";
    const nameOf = (number: number): string | null => {
      item.state = "labeled";
      const name = names[number];
      if (name === undefined) report.add("class-unknown", path, `class ${number} of ${names.length}`);
      return name ?? null;
    };
    if (annotation.boxes) {
      for (const { number, shape } of detections(annotation.vector)) {
        const name = nameOf(number);
        if (name !== null) item.objects.push({ class: name, shape });
      }
    } else {
      for (const number of annotation.vector) {
        const name = nameOf(number);
        if (name !== null && !item.classes.includes(name)) item.classes.push(name);
      }
    }
    return item;
  };
  async function* items(): AsyncIterable<Item> {
    for (const { path, annotation: annotation } of packed) yield itemOf(path, annotation);
    yield* images.items((path, listed) => itemOf(path, listed?.annotation));
  }
  return { classes: names.map((name) => ({ name })), items: items() };
}

type ListFile = { rows: string[]; records: Spool | null; offsets: string[] };

async function writeImageList(outgoing: Outgoing, sink: PackageSink, options: Options): Promise<void> {
  const packing = options["pack"] === "recordio";
  const boxes = options["kind"] === "boxes";
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, n) => [info.name, n]));
  const numberOf = (name: string) => numbers.get(name) ?? 0;
  const lists = new Map<string, ListFile>();
  let index = 0;
  for await (const item of outgoing.items) {
    const folder = item.split ? `images/${item.split}` : "images";
    const path = `${folder}/${names.claim(folder, item.path)}`;
    // An unlabeled image goes along as a file and stands in no list.
    if (item.state === "unlabeled") {
      await sink.picture(path, item);
      continue;
    }
    const key = item.split ?? "all";
    const list = lists.get(key) ?? { rows: [], records: packing ? await sink.spool() : null, offsets: [] };
    lists.set(key, list);
    const vector = boxes ? detectionVector(item.objects, numberOf, item.size) : labelVector(item.classes.map(numberOf));
    list.rows.push([index, ...vector, path].join("\t"));
    if (list.records) {
      sink.expect(path, item);
      list.offsets.push(`${index}\t${list.records.size}`);
      await list.records.append(encodeRecord(index, vector, await item.open()));
    } else await sink.picture(path, item);
    index++;
  }
  for (const [key, list] of lists) {
    await sink.write(`${key}.lst`, list.rows.map((row) => `${row}\n`).join(""));
    if (!list.records) continue;
    await list.records.commit(`${key}.rec`);
    await sink.write(`${key}.idx`, list.offsets.map((row) => `${row}\n`).join(""));
  }
  await sink.write("classes.txt", outgoing.classes.map((info) => `${info.name}\n`).join(""));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      boxes
        ? "One .lst a split: index, header width 2, object width 5, then class and relative edges of each box, and the path, tabs between."
        : "One .lst a split: index, class numbers and path, tabs between.",
      "Classes count from 0 in the order of classes.txt. Pictures in no list are unlabeled.",
      ...(packing ? ["The same as RecordIO: .rec holds labels and pictures, .idx where each record begins."] : []),
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

const labels: Carries = {
  shapes: [],
  parts: "kept",
  holes: "lost",
  flags: [],
  attributes: false,
  captions: "none",
  fields: false,
  imageClasses: "many",
  noSplit: true,
  empty: false,
};
const detectionLists: Carries = { ...labels, shapes: ["box"], imageClasses: "none", empty: true };

export const imageList: Format = {
  name: "image-list",
  title: "Image list",
  carries: detectionLists,
  carriesWith: (options) => (options["kind"] === "labels" ? labels : detectionLists),
  surveyed: ({ objects }, options) =>
    options["kind"] ? options : { ...options, kind: objects > 0 ? "boxes" : "labels" },
  // Labels in records are floats of four bytes.
  rounding: { pixels: 0, relative: 1e-6 },
  training: "Point a trainer at the list or record file of a split; classes.txt has the classes by number.",
  loosePictures: true,
  options: [
    {
      name: "pack",
      values: ["none", "recordio"],
      default: "none",
      describes: "whether pictures and labels are also packed into .rec files with an .idx",
      example: "pack=recordio",
      when: "writing",
    },
    {
      name: "kind",
      values: ["boxes", "labels"],
      default: "boxes where there is an object, else labels",
      describes: "whether rows hold boxes or the classes of whole images",
      example: "kind=labels",
      when: "writing",
    },
  ],
  async recognise(entries, peek) {
    const lists = entries.filter((entry) => extensionOf(entry.path) === "lst");
    for (const { path } of lists.slice(0, 5)) {
      const row = rowOf((await peek(path)).split(/\r?\n/, 1)[0] ?? "");
      if (row && isImagePath(row.path))
        return { score: 0.95, reason: `${path} holds rows of an index, labels and a path` };
    }
    const records = entries.find((entry) => extensionOf(entry.path) === "rec");
    if (records && (await peek(records.path)).length > 0)
      return { score: 0.9, reason: `${records.path} is a file of records` };
    return { score: 0, reason: "no .lst and no .rec" };
  },
  read: (files, _options, report) => readImageList(files, report),
  write: writeImageList,
};
