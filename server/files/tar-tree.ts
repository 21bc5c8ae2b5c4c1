/** A tar as a file tree: its directory is read once, its files by where they lie. */
import { tarEntries, unsafeEntry } from "@larder/core/formats/webdataset/tar-index";
import { Failure } from "@larder/core/model/failure";
import { isLitter, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import { createReadStream } from "node:fs";
import { readFileRange } from "./folder-tree";

export class TarTree implements FileTree {
  private constructor(
    private readonly file: string,
    private readonly byPath: Map<string, { offset: number; size: number }>,
  ) {}

  /**
   * Reads the archive's directory. Unsafe entries become findings and are left out; what is cut off gives what came
   * before.
   */
  static async open(file: string, report: Findings): Promise<TarTree> {
    const byPath = new Map<string, { offset: number; size: number }>();
    try {
      for await (const { name, type, offset, size } of tarEntries(
        createReadStream(file, { highWaterMark: 1 << 20 }) as AsyncIterable<Uint8Array>,
      )) {
        const path = name.replaceAll("\\", "/").replace(/^(\.\/)+/, "");
        if (type === "directory" || path === "" || isLitter(path)) continue;
        const reason = unsafeEntry({ name, type }) ?? (byPath.has(path) ? "a second entry of the same name" : null);
        if (reason) report.add("entry-unsafe", name.slice(0, 200), reason);
        else byPath.set(path, { offset, size });
      }
    } catch (error) {
      if (byPath.size === 0)
        throw new Failure(
          "not-a-tar",
          "It is not a tar, or it was cut off before its first file ended. Send it again, or pack it anew.",
        );
      report.add(
        "annotation-unreadable",
        file,
        `the archive is damaged or cut off (${String((error as Error).message)}); the files before come in`,
      );
    }
    return new TarTree(file, byPath);
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve([...this.byPath].map(([path, { size }]) => ({ path, size })));
  }

  readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    const entry = this.byPath.get(path);
    if (!entry) return Promise.reject(new Failure("file-missing", `There is no ${path} in the archive.`));
    return readFileRange(this.file, entry.offset + start, entry.offset + Math.min(end, entry.size));
  }

  read(path: string): Promise<Uint8Array> {
    return this.readRange(path, 0, Infinity);
  }

  async *stream(path: string): AsyncIterable<Uint8Array> {
    const entry = this.byPath.get(path);
    if (!entry) throw new Failure("file-missing", `There is no ${path} in the archive.`);
    if (entry.size === 0) return;
    for await (const chunk of createReadStream(this.file, {
      start: entry.offset,
      end: entry.offset + entry.size - 1,
      highWaterMark: 1 << 20,
    }))
      yield chunk as Uint8Array;
  }
}
