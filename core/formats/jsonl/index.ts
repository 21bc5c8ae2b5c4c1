/** jsonl: metadata.jsonl beside the images, one JSON a line. */
import { z } from "zod";
import { baseName, extensionOf, folderOf, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type Item, type Split } from "../../model/item";
import { splitFromFileName, splitFromName, splitFromPath } from "../../model/split-name";
import { AnnotatedImages } from "../annotated-images";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { jsonLines } from "../json-lines";
import { objectLists, readRow, rowSchema } from "../table-row";
import { UniqueNames } from "../unique-names";

const lineSchema = rowSchema.extend({ file_name: z.string() });
type ImageEntry = { split: Split | null; item: Item | null };

function isMetadata(path: string): boolean {
  return ["jsonl", "ndjson"].includes(extensionOf(path));
}

async function readJsonl(files: FileTree, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const images = new AnnotatedImages<ImageEntry>(entries, report);
  const classes = new Set<string>();
  for (const { path } of entries.filter((entry) => isMetadata(entry.path))) {
    const fromName = splitFromFileName(baseName(path)) ?? splitFromPath(path);
    for await (const { line, value, unreadable } of jsonLines(files.stream(path))) {
      const parsed = lineSchema.safeParse(value);
      if (unreadable !== undefined || !parsed.success) {
        report.add(
          "annotation-unreadable",
          path,
          unreadable === undefined ? `line ${line} has no file_name` : `line ${line}: ${unreadable}`,
        );
        continue;
      }
      const entry = images.of(parsed.data.file_name, path, () => ({ split: null, item: null }));
      entry.split ??= (parsed.data.split ? splitFromName(parsed.data.split) : null) ?? fromName;
      entry.item ??= blankItem(parsed.data.file_name);
      const { width, height } = parsed.data;
      if (width && height) entry.item.declared = { width, height };
      readRow(parsed.data, entry.item, report);
      for (const { class: name } of entry.item.objects) classes.add(name);
      for (const name of entry.item.classes) classes.add(name);
    }
  }
  const itemOf = (path: string, entry: ImageEntry | undefined): Item => ({
    ...(entry?.item ?? blankItem(path)),
    path,
    split: entry?.split ?? splitFromPath(path),
  });
  return { classes: [...classes].map((name) => ({ name })), items: images.items(itemOf) };
}

async function writeJsonl(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const lines = new Map<string, string[]>();
  for await (const item of outgoing.items) {
    const folder = item.split ?? "";
    const fileName = names.claim(folder, item.path);
    await sink.picture(folder === "" ? fileName : `${folder}/${fileName}`, item);
    const { area: _, ...objects } = objectLists(item.objects);
    const [label, ...further] = item.classes;
    const line = {
      file_name: fileName,
      width: item.size.width,
      height: item.size.height,
      ...(item.state === "empty" || objects.bbox.length > 0 ? { objects } : {}),
      ...(label === undefined ? {} : further.length === 0 ? { label } : { labels: item.classes }),
      ...(item.captions.length > 0 ? { text: item.captions.length === 1 ? item.captions[0] : item.captions } : {}),
      ...(Object.keys(item.fields).length > 0 ? { fields: item.fields } : {}),
    };
    const inFolder = lines.get(folder) ?? [];
    lines.set(folder, inFolder);
    inFolder.push(JSON.stringify(line));
  }
  for (const [folder, inFolder] of lines)
    await sink.write(folder === "" ? "metadata.jsonl" : `${folder}/metadata.jsonl`, encoded(inFolder));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "metadata.jsonl in each split's folder: one JSON a picture. bbox is [x, y, width, height] in pixels. A line without labels is unlabeled; one with empty objects holds nothing.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

async function* encoded(lines: readonly string[]): AsyncIterable<Uint8Array> {
  const encoder = new TextEncoder();
  for (let i = 0; i < lines.length; i += 1000) yield encoder.encode(`${lines.slice(i, i + 1000).join("\n")}\n`);
}

export const jsonl: Format = {
  name: "jsonl",
  title: "JSON lines",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "many",
    fields: true,
    imageClasses: "many",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training: "Point a loader at the folder of a split: metadata.jsonl within it has a line a picture.",
  loosePictures: true,
  options: [],
  async recognise(entries, peek) {
    const sheets = entries.filter((entry) => isMetadata(entry.path));
    for (const { path } of sheets.slice(0, 5)) {
      if (/"file_name"\s*:/.test(await peek(path)))
        return {
          score: folderOf(path) === "" || baseName(path).startsWith("metadata") ? 0.95 : 0.9,
          reason: `${path} names a picture in each line`,
        };
    }
    return { score: 0, reason: sheets.length > 0 ? "its JSON lines name no pictures" : "no JSON lines" };
  },
  read: (files, _options, report) => readJsonl(files, report),
  write: writeJsonl,
};
