import { isImagePath, type FileEntry, type FileTree } from "../model/file-tree";

/** A tree that remembers which of its files other than pictures were read. */
export class RecordingTree implements FileTree {
  readonly used = new Set<string>();

  constructor(private readonly tree: FileTree) {}

  private note(path: string): void {
    if (!isImagePath(path)) this.used.add(path);
  }

  entries(): Promise<FileEntry[]> {
    return this.tree.entries();
  }

  read(path: string): Promise<Uint8Array> {
    this.note(path);
    return this.tree.read(path);
  }

  stream(path: string): AsyncIterable<Uint8Array> {
    this.note(path);
    return this.tree.stream(path);
  }

  readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    this.note(path);
    return this.tree.readRange(path, start, end);
  }
}
