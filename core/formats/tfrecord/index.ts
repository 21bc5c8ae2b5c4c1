/** tfrecord: sharded record files of tf.train.Example, with the pictures inside. */
import { encode } from "fast-png";
import { bitmapFromRuns, runsFromBitmap } from "../../geometry/run-length";
import { shapeBounds } from "../../geometry/shape";
import { baseName, extensionOf, isImagePath, readText, withoutExtension, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, splitNames, type Item, type Size, type Split } from "../../model/item";
import type { Shape } from "../../model/shape";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Format, Outgoing, OutgoingItem, PackageSink, Reading } from "../format";
import { decodeMask } from "../masks/png";
import { ShardedFiles } from "../sharded-files";
import { TakenPaths } from "../taken-paths";
import { UniqueNames } from "../unique-names";
import { encodeExample, Example, type FeatureValue } from "./example";
import { formatLabelMap, parseLabelMap } from "./label-map";
import { encodeRecord, readFramedRecords } from "./records";

const object = (name: string) => `image/object/${name}`;

export function isRecordFile(path: string): boolean {
  return /\.(tfrecords?|tfrec|record)(-\d{5}-of-\d{5})?$/i.test(path);
}

function maskAt(png: Uint8Array | undefined): Shape | null {
  if (!png || png.length === 0) return null;
  const { width, height, values } = decodeMask(png);
  const counts = runsFromBitmap(
    Uint8Array.from(values, (value) => (value === 0 ? 0 : 1)),
    width,
    height,
  );
  return counts.length > 1 ? { kind: "mask", width, height, counts } : null;
}

/** The class of object `n`: its text, or what the label map says of its number. */
function classAt(
  texts: readonly string[],
  labels: readonly number[],
  n: number,
  map: ReadonlyMap<number, string>,
): string | undefined {
  return (
    texts[n] ||
    (labels[n] === undefined ? undefined : (map.get(labels[n]) ?? (map.size === 0 ? `class_${labels[n]}` : undefined)))
  );
}

async function readTfrecord(files: FileTree, report: Findings): Promise<Reading> {
  const paths = (await files.entries()).map((entry) => entry.path);
  const maps = paths.filter((path) => extensionOf(path) === "pbtxt");
  const map = maps[0] === undefined ? new Map<number, string>() : parseLabelMap(await readText(files, maps[0]));
  const shards = paths.filter(isRecordFile);
  const names = new Set(map.values());
  let numbered = false;

  async function* examples(
    quiet: boolean,
  ): AsyncIterable<{ shard: string; example: Example; data: Uint8Array; offset: number; number: number }> {
    for (const shard of shards) {
      let number = 0;
      for await (const record of readFramedRecords(files.stream(shard))) {
        number++;
        if ("damaged" in record) {
          if (!quiet) report.add("annotation-unreadable", shard, record.damaged);
          continue;
        }
        try {
          yield { shard, example: Example.decode(record.data), data: record.data, offset: record.offset, number };
        } catch {
          if (!quiet) report.add("annotation-unreadable", shard, `record ${number} is no example`);
        }
      }
    }
  }
  // A label map may be missing, incomplete, or spell a class otherwise than the records do: these have the last word.
  for await (const { example } of examples(true)) {
    for (const kind of [object("class"), "image/class"]) {
      const [texts, labels] = [example.texts(`${kind}/text`), example.numbers(`${kind}/label`)];
      if (map.size === 0 && texts.length === 0 && labels.length > 0) numbered = true;
      for (let n = 0; n < Math.max(texts.length, labels.length); n++) names.add(classAt(texts, labels, n, map) ?? "");
    }
  }
  names.delete("");
  if (numbered) report.add("classes-missing", "", "no label map, and records with numbers only");

  /** `size` is what the coordinates, which are shares, are multiplied by. */
  function readObjects(example: Example, item: Item, { width, height }: Size): void {
    const [x1, x2, y1, y2] = ["xmin", "xmax", "ymin", "ymax"].map((edge) =>
      example.numbers(object(`bbox/${edge}`)),
    ) as [number[], number[], number[], number[]];
    const [texts, labels, pngs] = [
      example.texts(object("class/text")),
      example.numbers(object("class/label")),
      example.bytes(object("mask")),
    ];
    const [difficult, truncated] = [example.numbers(object("difficult")), example.numbers(object("truncated"))];
    for (let n = 0; n < Math.max(x1.length, texts.length, labels.length); n++) {
      item.state = "labeled";
      const name = classAt(texts, labels, n, map);
      if (name === undefined) {
        report.add("class-unknown", item.path, `label ${labels[n] ?? "none"}`);
        continue;
      }
      let mask: Shape | null = null;
      try {
        mask = maskAt(pngs[n]);
      } catch (error) {
        report.add("annotation-unreadable", item.path, `a mask of ${name}: ${String((error as Error).message)}`);
      }
      const [left, right, top, bottom] = [x1[n], x2[n], y1[n], y2[n]].map((value) => value ?? NaN) as [
        number,
        number,
        number,
        number,
      ];
      const box: Shape = {
        kind: "box",
        x: left * width,
        y: top * height,
        width: (right - left) * width,
        height: (bottom - top) * height,
      };
      item.objects.push({
        class: name,
        shape: mask ?? box,
        ...(difficult[n] ? { difficult: true } : {}),
        ...(truncated[n] ? { truncated: true } : {}),
      });
    }
  }

  function itemOf(example: Example, path: string, shard: string, pieces: [number, number] | null): Item {
    const item: Item = {
      ...blankItem(path),
      split: splitFromFileName(baseName(shard)) ?? splitFromPath(shard),
      present: pieces !== null,
    };
    if (pieces) item.inside = { file: shard, pieces: [pieces] };
    const [width, height] = [example.numbers("image/width")[0], example.numbers("image/height")[0]];
    if (width !== undefined && height !== undefined && width > 0 && height > 0) item.declared = { width, height };
    // Boxes are shares, and stay that; only where masks stand beside them they become pixels of the size that is named.
    const has =
      example.has(object("bbox/xmin")) || example.has(object("class/text")) || example.has(object("class/label"));
    if (has) item.state = "empty";
    if (item.declared && example.has(object("mask"))) readObjects(example, item, item.declared);
    else {
      item.units = "relative";
      readObjects(example, item, { width: 1, height: 1 });
    }
    const [texts, labels] = [example.texts("image/class/text"), example.numbers("image/class/label")];
    for (let n = 0; n < Math.max(texts.length, labels.length); n++) {
      const name = classAt(texts, labels, n, map);
      item.state = "labeled";
      if (name === undefined) report.add("class-unknown", path, `label ${labels[n] ?? "none"}`);
      else if (!item.classes.includes(name)) item.classes.push(name);
    }
    return item;
  }

  async function* items(): AsyncIterable<Item> {
    const paths = new TakenPaths();
    for await (const { shard, example, data, offset, number } of examples(false)) {
      const [encoded] = example.bytes("image/encoded");
      const format = example.texts("image/format")[0] ?? "jpg";
      const fileName = example.texts("image/filename")[0] || example.texts("image/source_id")[0] || `${number}`;
      const path = paths.claim(
        isImagePath(fileName) ? fileName : `${fileName}.${format === "jpeg" ? "jpg" : format}`,
        shard,
      );
      if (!encoded || encoded.length === 0)
        report.add("image-missing", path, `record ${number} of ${shard} has no picture`);
      yield itemOf(
        example,
        path,
        shard,
        encoded && encoded.length > 0 ? [offset + encoded.byteOffset - data.byteOffset, encoded.length] : null,
      );
    }
  }
  return { classes: [...names].map((name) => ({ name })), items: items() };
}

const formatWords: Record<string, string> = { jpg: "jpeg", jpeg: "jpeg", jfif: "jpeg", tif: "tiff" };

function exampleOf(
  item: OutgoingItem,
  path: string,
  picture: Uint8Array,
  numbers: ReadonlyMap<string, number>,
): Uint8Array {
  const { width, height } = item.size;
  const extension = extensionOf(path);
  const features: Record<string, FeatureValue> = {
    "image/encoded": { bytes: [picture] },
    "image/format": { bytes: [formatWords[extension] ?? extension] },
    "image/filename": { bytes: [path] },
    "image/source_id": { bytes: [withoutExtension(path)] },
    "image/height": { integers: [height] },
    "image/width": { integers: [width] },
  };
  if (item.state === "empty" || item.objects.length > 0) {
    const boxes = item.objects.map(({ shape }) => shapeBounds(shape) ?? { x: 0, y: 0, width: 0, height: 0 });
    features[object("bbox/xmin")] = { floats: boxes.map((box) => box.x / width) };
    features[object("bbox/xmax")] = { floats: boxes.map((box) => (box.x + box.width) / width) };
    features[object("bbox/ymin")] = { floats: boxes.map((box) => box.y / height) };
    features[object("bbox/ymax")] = { floats: boxes.map((box) => (box.y + box.height) / height) };
    features[object("class/text")] = { bytes: item.objects.map((labeled) => labeled.class) };
    features[object("class/label")] = { integers: item.objects.map((labeled) => numbers.get(labeled.class) ?? 0) };
    features[object("difficult")] = { integers: item.objects.map((labeled) => (labeled.difficult ? 1 : 0)) };
    features[object("truncated")] = { integers: item.objects.map((labeled) => (labeled.truncated ? 1 : 0)) };
    // Where one object has a mask all have an entry; a mask of nothing says that the box is all there is.
    if (item.objects.some(({ shape }) => shape.kind === "mask"))
      features[object("mask")] = { bytes: item.objects.map(({ shape }) => maskPng(shape, width, height)) };
  }
  if (item.classes.length > 0) {
    features["image/class/text"] = { bytes: item.classes };
    features["image/class/label"] = { integers: item.classes.map((name) => numbers.get(name) ?? 0) };
  }
  return encodeExample(features);
}

function maskPng(shape: Shape, width: number, height: number): Uint8Array {
  const bitmap =
    shape.kind === "mask" ? bitmapFromRuns(shape.counts, shape.width, shape.height) : new Uint8Array(width * height);
  return encode({ width, height, data: bitmap, channels: 1, depth: 8 });
}

async function writeTfrecord(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, n) => [info.name, n + 1]));
  const splits = new Map<Split | "all", ShardedFiles>();
  for await (const item of outgoing.items) {
    const key = item.split ?? "all";
    const shards = splits.get(key) ?? new ShardedFiles(sink);
    splits.set(key, shards);
    const path = names.claim("", item.path);
    sink.expect(path, item);
    await shards.append(encodeRecord(exampleOf(item, path, await item.open(), numbers)));
  }
  for (const [key, shards] of splits)
    await shards.commit(
      (n, count) => `${key}-${String(n).padStart(5, "0")}-of-${String(count).padStart(5, "0")}.tfrecord`,
    );
  await sink.write("label_map.pbtxt", formatLabelMap(outgoing.classes.map((info) => info.name)));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      `Shards of tf.train.Example with the pictures inside, for ${[...splitNames, "all"].filter((key) => splits.has(key as Split)).join(", ")}; label_map.pbtxt numbers the classes from 1.`,
      "Boxes are shares of the picture's size. An example with object features that are empty holds nothing; one without them is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

export const tfrecord: Format = {
  name: "tfrecord",
  title: "TFRecord",
  carries: {
    shapes: ["box", "mask"],
    parts: "kept",
    holes: "kept",
    flags: ["difficult", "truncated"],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  },
  // Shares are floats of four bytes.
  rounding: { pixels: 0, relative: 3e-7 },
  training: "Point a trainer at the record files of a split, and at label_map.pbtxt for the classes.",
  loosePictures: false,
  options: [],
  async recognise(entries) {
    const shards = entries.filter((entry) => isRecordFile(entry.path));
    return {
      score: shards.length > 0 ? 0.95 : 0,
      reason: shards.length > 0 ? `${shards.length} record files` : "no record file",
    };
  },
  read: (files, _options, report) => readTfrecord(files, report),
  write: writeTfrecord,
};
