/** What people sent for a delivery: loose files, archives and PDFs in a folder of its own. */
import { Failure } from "@larder/core/model/failure";
import { baseName, extensionOf, isImagePath, withoutExtension, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import type { LabeledObject } from "@larder/core/model/item";
import { rm } from "node:fs/promises";
import { FolderTree, readFileRange } from "../../files/folder-tree";
import { namedPlace } from "../../files/named-place";
import { gunzip, unpackedName } from "../../files/gunzip";
import { MountedTree, type Mount } from "../../files/mounted-tree";
import { PdfTree } from "../../files/pdf/tree";
import { TarTree } from "../../files/tar-tree";
import { ZipTree } from "../../files/zip-tree";
import { settings } from "../../settings";

/** A tar says so at byte 257 of its first header. */
async function isTar(file: string): Promise<boolean> {
  return new TextDecoder().decode(await readFileRange(file, 257, 262)) === "ustar";
}

async function openArchive(file: string, report: Findings): Promise<{ tree: ZipTree | TarTree; close: () => void }> {
  if (await isTar(file)) return { tree: await TarTree.open(file, report), close: () => undefined };
  const zip = await ZipTree.open(file, settings().limits, report);
  return { tree: zip, close: () => zip.close() };
}

/** `except` hides the entries that were opened in their own right. */
class WithoutEntries extends FolderTree {
  constructor(
    folder: string,
    private readonly except: ReadonlySet<string>,
  ) {
    super(folder);
  }

  override async entries() {
    return (await super.entries()).filter(({ path }) => !this.except.has(path));
  }
}

/**
 * Unpacks the files of a folder that are compressed as one piece, in their place. Once is enough: nothing is left of
 * them.
 */
export async function unpackGzips(folder: string, report: Findings): Promise<void> {
  const loose = new FolderTree(folder);
  const entries = await loose.entries();
  for (const { path } of entries) {
    const unpacked = unpackedName(path);
    if (unpacked === null) continue;
    try {
      await gunzip(loose.onDisk(path), await namedPlace(folder, unpacked), settings().limits);
      await rm(loose.onDisk(path));
    } catch (error) {
      if (entries.length === 1 || !(error instanceof Failure)) throw error;
      report.add("annotation-unreadable", path, error.message);
    }
  }
}

export type Unpacked = { tree: FileTree; words: (path: string) => Promise<LabeledObject[]> | null; close: () => void };

/**
 * The files of a folder with its archives opened and its PDFs as pages. One archive alone stands for itself; several
 * files get a folder each, by name. Several tars are left closed: they are shards of one data set.
 */
export async function unpackFolder(
  folder: string,
  pageResolution: number,
  report: Findings,
  others: readonly Mount[] = [],
): Promise<Unpacked> {
  const loose = new FolderTree(folder);
  const entries = await loose.entries();
  const tars = entries.filter(({ path }) => extensionOf(path) === "tar");
  const sole = entries.length === 1 && others.length === 0 ? entries[0]?.path : undefined;
  const archives = entries
    .map(({ path }) => path)
    .filter((path) => extensionOf(path) === "zip" || (extensionOf(path) === "tar" && tars.length === 1));
  // A single file of a kind nobody knows can only be an archive, whatever it is called.
  if (
    sole !== undefined &&
    archives.length === 0 &&
    !isImagePath(sole) &&
    !/\.(json|xml|csv|tsv|txt|ya?ml|jsonl|ndjson|lst|rec|parquet|pdf|tfrecords?|tfrec|record|names|pbtxt)(-\d{5}-of-\d{5})?$/i.test(
      sole,
    )
  )
    archives.push(sole);
  const pdfs = entries.map(({ path }) => path).filter((path) => extensionOf(path) === "pdf");
  const mounts: Mount[] = [];
  const pages: { at: string; pdf: PdfTree }[] = [];
  const closing: (() => void)[] = [];
  const close = () => {
    for (const end of closing) end();
  };
  const places = new Set<string>();
  const placeFor = (path: string): string => {
    if (sole !== undefined) return "";
    const stem = withoutExtension(path);
    let at = stem;
    for (let n = 2; places.has(at); n++) at = `${stem}_${n}`;
    places.add(at);
    return at;
  };
  try {
    for (const path of archives) {
      try {
        const opened = await openArchive(loose.onDisk(path), report);
        closing.push(opened.close);
        mounts.push({ at: placeFor(path), tree: opened.tree });
      } catch (error) {
        // One broken archive among several files must not hide the others.
        if (sole !== undefined || !(error instanceof Failure)) throw error;
        report.add("annotation-unreadable", path, error.message);
      }
    }
    for (const path of pdfs) {
      try {
        const pdf = await PdfTree.open(loose.onDisk(path), pageResolution, settings().limits.pixels);
        closing.push(() => pdf.close());
        const at = sole !== undefined ? baseName(withoutExtension(path)) : placeFor(path);
        mounts.push({ at, tree: pdf });
        pages.push({ at, pdf });
      } catch (error) {
        if (sole !== undefined || !(error instanceof Failure)) throw error;
        report.add("image-unreadable", path, error.message);
      }
    }
  } catch (error) {
    close();
    throw error;
  }
  const rest = new Set([...archives, ...pdfs]);
  if (sole === undefined || !rest.has(sole)) mounts.push({ at: "", tree: new WithoutEntries(folder, rest) });
  mounts.push(...others);
  const [only] = mounts;
  const words = (path: string) => {
    const page = pages.find(({ at }) => path.startsWith(`${at}/`));
    return page ? page.pdf.words(path.slice(page.at.length + 1)) : null;
  };
  return { tree: mounts.length === 1 && only?.at === "" ? only.tree : new MountedTree(mounts), words, close };
}
