import type { FileEntry } from "@larder/core/model/file-tree";
import { WholeFiles } from "./whole-files";

/** One text as a file tree. */
export class TextFile extends WholeFiles {
  private readonly bytes: Uint8Array;

  constructor(
    private readonly name: string,
    text: string,
  ) {
    super();
    this.bytes = new TextEncoder().encode(text);
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve([{ path: this.name, size: this.bytes.length }]);
  }

  read(): Promise<Uint8Array> {
    return Promise.resolve(this.bytes);
  }
}
