import { initialChoices } from "@larder/core/intake/choices";
import { Failure } from "@larder/core/model/failure";
import { baseName, extensionOf, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import { stat } from "node:fs/promises";
import path from "node:path";
import { FolderTree } from "./folder-tree";
import { PdfTree } from "./pdf/tree";
import { gunzip, unpackedName } from "./gunzip";
import { scratchFolder } from "./scratch-folder";
import { TarTree } from "./tar-tree";
import { ZipTree, type ArchiveLimits } from "./zip-tree";

/** `onDisk` tells where a file of the tree lies by itself; null where it lies inside an archive. */
export type OpenSource = { tree: FileTree; onDisk: (path: string) => string | null; close: () => void };

const annotation =
  /\.(json|xml|txt|csv|tsv|ya?ml|jsonl|ndjson|lst|rec|idx|parquet|tar|pbtxt|names|tfrecords?|tfrec|record)(-\d{5}-of-\d{5})?$/i;
/** Lists of classes that an annotation file needs beside it. */
const companion =
  /^(classes\.txt|labels\.txt|obj\.names|.*\.names|class-descriptions[^/]*\.csv|.*\.pbtxt|classes\.csv|objects\.csv)$/i;

/**
 * Of the annotations beside a named file only that one counts, and lists of classes; a data.yaml speaks for the labels
 * around it.
 */
function named(beside: FolderTree, picture: string): FileTree {
  const speaksForAll = ["yaml", "yml"].includes(extensionOf(picture));
  const counts = ({ path: other }: FileEntry) =>
    other === picture ||
    speaksForAll ||
    !annotation.test(other) ||
    companion.test(baseName(other)) ||
    (extensionOf(picture) === "rec" && other === picture.replace(/\.rec$/i, ".lst")) ||
    (extensionOf(picture) === "lst" && other === picture.replace(/\.lst$/i, ".rec"));
  return {
    entries: async () => (await beside.entries()).filter(counts),
    read: (file) => beside.read(file),
    stream: (file) => beside.stream(file),
    readRange: (file, start, end) => beside.readRange(file, start, end),
  };
}

/** The files of a tar, with the class list that lies beside it where it has none. */
async function withClassList(tar: TarTree, beside: FolderTree): Promise<FileTree> {
  const entries = await tar.entries();
  const list = entries.some(({ path: file }) => baseName(file) === "classes.txt")
    ? undefined
    : (await beside.entries()).find(({ path: file }) => file === "classes.txt");
  if (!list) return tar;
  const from = (file: string): FileTree => (file === list.path ? beside : tar);
  return {
    entries: () => Promise.resolve([...entries, list]),
    read: (file) => from(file).read(file),
    stream: (file) => from(file).stream(file),
    readRange: (file, start, end) => from(file).readRange(file, start, end),
  };
}

/**
 * Opens a folder, a zip, a tar (also one in gzip), a PDF (one picture a page), or an annotation file whose images lie beside it. Throws a Failure
 * where there is nothing to open.
 */
export async function openSource(
  source: string,
  limits: ArchiveLimits & { pixels: number },
  report: Findings,
): Promise<OpenSource> {
  const found = await stat(source).catch(() => null);
  if (!found) throw new Failure("source-missing", `There is no file or folder ${source}.`);
  const close = () => undefined;
  if (found.isDirectory()) {
    const folder = new FolderTree(source);
    return { tree: folder, onDisk: (file) => folder.nameable(file), close };
  }
  if (!found.isFile()) throw new Failure("source-missing", `${source} is neither a file nor a folder.`);
  if (/\.zip$/i.test(source)) {
    const zip = await ZipTree.open(source, limits, report);
    return { tree: zip, onDisk: () => null, close: () => zip.close() };
  }
  const beside = new FolderTree(path.dirname(path.resolve(source)));
  if (/\.(tar\.gz|tgz)$/i.test(source)) {
    const { folder, drop } = await scratchFolder();
    try {
      const tar = path.join(folder, unpackedName(path.basename(source)) ?? "source.tar");
      await gunzip(source, tar, limits);
      return { tree: await withClassList(await TarTree.open(tar, report), beside), onDisk: () => null, close: drop };
    } catch (error) {
      drop();
      throw error;
    }
  }
  if (/\.pdf$/i.test(source)) {
    const { pageResolution } = initialChoices;
    const pdf = await PdfTree.open(source, pageResolution, limits.pixels);
    return { tree: pdf, onDisk: () => null, close: () => pdf.close() };
  }
  if (/\.tar$/i.test(source))
    return { tree: await withClassList(await TarTree.open(source, report), beside), onDisk: () => null, close };
  return { tree: named(beside, path.basename(source)), onDisk: (file) => beside.nameable(file), close };
}
