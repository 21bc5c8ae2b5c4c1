import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import { stat } from "node:fs/promises";
import path from "node:path";
import { FolderTree } from "./folder-tree";
import { ZipTree, type ArchiveLimits } from "./zip-tree";

export type OpenSource = { tree: FileTree; close: () => void };

/** Opens a folder, a zip, or an annotation file whose images lie beside it. Throws a Failure where there is nothing to open. */
export async function openSource(source: string, limits: ArchiveLimits, report: Findings): Promise<OpenSource> {
  const found = await stat(source).catch(() => null);
  if (!found) throw new Failure("source-missing", `There is no file or folder ${source}.`);
  if (found.isDirectory()) return { tree: new FolderTree(source), close: () => undefined };
  if (/\.zip$/i.test(source)) {
    const zip = await ZipTree.open(source, limits, report);
    return { tree: zip, close: () => zip.close() };
  }
  const own = path.basename(source);
  const beside = new FolderTree(path.dirname(path.resolve(source)));
  const annotation = /\.(json|xml|txt|csv|ya?ml|jsonl)$/i;
  // Of the annotations beside it only the one that was named counts.
  const tree: FileTree = {
    entries: async () => (await beside.entries()).filter(({ path: other }) => other === own || !annotation.test(other)),
    read: (file) => beside.read(file),
    stream: (file) => beside.stream(file),
  };
  return { tree, close: () => undefined };
}
