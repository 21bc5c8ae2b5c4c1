import type { FileEntry, FileTree } from "@larder/core/model/file-tree";

/** A tree whose files are always fetched whole: streams and ranges are cut from that. */
export abstract class WholeFiles implements FileTree {
  abstract entries(): Promise<FileEntry[]>;
  abstract read(path: string): Promise<Uint8Array>;

  async *stream(path: string): AsyncIterable<Uint8Array> {
    yield await this.read(path);
  }

  async readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    return (await this.read(path)).subarray(start, end);
  }
}
