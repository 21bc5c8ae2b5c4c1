import type { Spool } from "@larder/core/model/file-tree";
import { open, type FileHandle } from "node:fs/promises";

/** A spool on disk: appended to, then handed to `place`. */
export class DiskSpool implements Spool {
  size = 0;
  private handle: FileHandle | null = null;

  constructor(
    private readonly file: string,
    private readonly place: (file: string, path: string) => Promise<void>,
  ) {}

  async append(bytes: Uint8Array): Promise<void> {
    this.handle ??= await open(this.file, "ax");
    await this.handle.appendFile(bytes);
    this.size += bytes.length;
  }

  async commit(relative: string): Promise<void> {
    this.handle ??= await open(this.file, "ax");
    await this.handle.close();
    await this.place(this.file, relative);
  }
}
