import type { AsyncBuffer } from "hyparquet";
import { Failure } from "../../model/failure";
import type { FileTree } from "../../model/file-tree";

/** A file of a tree as the table reader wants it: by byte ranges. */
export async function fileBuffer(files: FileTree, path: string): Promise<AsyncBuffer> {
  const entry = (await files.entries()).find((candidate) => candidate.path === path);
  if (!entry) throw new Failure("file-missing", `There is no ${path}.`);
  return {
    byteLength: entry.size,
    async slice(start, end) {
      const bytes = await files.readRange(path, start, end ?? entry.size);
      // A copy of its own: a Buffer may share its memory with others.
      return new Uint8Array(bytes).buffer;
    },
  };
}
