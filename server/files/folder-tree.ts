import { Failure } from "@larder/core/model/failure";
import { isLitter, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import { createReadStream, readFileSync, statSync } from "node:fs";
import { open, readdir, readFile } from "node:fs/promises";
import path from "node:path";

/** Files up to this size are read at once: for label files the way to another thread and back costs more than the work. */
const smallFile = 16 * 1024;

/** Bytes `start` to `end` of a file on disk. */
export async function readFileRange(file: string, start: number, end: number): Promise<Uint8Array> {
  const handle = await open(file, "r");
  try {
    const buffer = Buffer.alloc(Math.max(0, Math.min(end, (await handle.stat()).size) - start));
    let done = 0;
    while (done < buffer.length) {
      const { bytesRead } = await handle.read(buffer, done, buffer.length - done, start + done);
      if (bytesRead === 0) break;
      done += bytesRead;
    }
    return buffer.subarray(0, done);
  } finally {
    await handle.close();
  }
}

/** A folder on disk. Links are not followed: they could lead out of it. */
export class FolderTree implements FileTree {
  private listed: Promise<FileEntry[]> | null = null;
  private readonly folder: string;
  private readonly small = new Set<string>();

  constructor(folder: string) {
    this.folder = path.resolve(folder);
  }

  entries(): Promise<FileEntry[]> {
    this.listed ??= this.list();
    return this.listed;
  }

  private async list(): Promise<FileEntry[]> {
    const found: FileEntry[] = [];
    const walk = async (relative: string): Promise<void> => {
      for (const entry of await readdir(path.join(this.folder, relative), { withFileTypes: true })) {
        const own = relative === "" ? entry.name : `${relative}/${entry.name}`;
        if (isLitter(own)) continue;
        if (entry.isDirectory()) await walk(own);
        else if (entry.isFile()) {
          // Asking at once is several times quicker than a round trip for each; a file may be gone by now.
          const size = statSync(`${this.folder}${path.sep}${own}`, { throwIfNoEntry: false })?.size;
          if (size !== undefined) found.push({ path: own, size });
        }
      }
    };
    await walk("");
    for (const { path: own, size } of found) if (size <= smallFile) this.small.add(own);
    return found.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** Where a file of the tree lies on disk. Throws for a path that leaves it. */
  onDisk(relative: string): string {
    const full = path.resolve(this.folder, relative);
    if (!full.startsWith(this.folder + path.sep)) throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    return full;
  }

  /** What changes when a file changes: its size and when it was last written. Throws where it is gone. */
  stampOf(relative: string): string {
    const { size, mtimeMs } = statSync(this.onDisk(relative));
    return `${size} ${mtimeMs}`;
  }

  async read(relative: string): Promise<Uint8Array> {
    // What was found while listing lies inside, so its path needs no looking at.
    return this.small.has(relative) ? readFileSync(`${this.folder}${path.sep}${relative}`) : readFile(this.onDisk(relative));
  }

  readRange(relative: string, start: number, end: number): Promise<Uint8Array> {
    return readFileRange(this.onDisk(relative), start, end);
  }

  async *stream(relative: string): AsyncIterable<Uint8Array> {
    for await (const chunk of createReadStream(this.onDisk(relative), { highWaterMark: 1 << 20 })) yield chunk as Uint8Array;
  }
}
