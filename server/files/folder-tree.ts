import { Failure } from "@larder/core/model/failure";
import { isLitter, type FileEntry, type FileSink, type FileTree, type Spool } from "@larder/core/model/file-tree";
import { randomUUID } from "node:crypto";
import { createReadStream, createWriteStream, readFileSync, statSync, writeFileSync } from "node:fs";
import { link, mkdir, open, readdir, readFile, rename, writeFile, type FileHandle } from "node:fs/promises";
import path from "node:path";
import { pipeline } from "node:stream/promises";
import { Readable } from "node:stream";

/** Files up to this size are read and written at once: for label files the way to another thread and back costs more than the work. */
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
  private readonly small = new Set<string>();

  constructor(private readonly folder: string) {}

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
          const size = statSync(path.join(this.folder, own), { throwIfNoEntry: false })?.size;
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
    if (!full.startsWith(path.resolve(this.folder) + path.sep)) throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    return full;
  }

  /** What changes when a file changes: its size and when it was last written. Throws where it is gone. */
  stampOf(relative: string): string {
    const { size, mtimeMs } = statSync(this.onDisk(relative));
    return `${size} ${mtimeMs}`;
  }

  async read(relative: string): Promise<Uint8Array> {
    const file = this.onDisk(relative);
    return this.small.has(relative) ? readFileSync(file) : readFile(file);
  }

  readRange(relative: string, start: number, end: number): Promise<Uint8Array> {
    return readFileRange(this.onDisk(relative), start, end);
  }

  async *stream(relative: string): AsyncIterable<Uint8Array> {
    for await (const chunk of createReadStream(this.onDisk(relative), { highWaterMark: 1 << 20 })) yield chunk as Uint8Array;
  }
}

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

/** Writes files into a folder; a path that would leave it is refused. */
export class FolderSink implements FileSink {
  private readonly made = new Set<string>();

  constructor(private readonly folder: string) {}

  private async inside(relative: string): Promise<string> {
    const full = path.resolve(this.folder, relative);
    if (!full.startsWith(path.resolve(this.folder) + path.sep)) throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    const parent = path.dirname(full);
    if (!this.made.has(parent)) await mkdir(parent, { recursive: true });
    this.made.add(parent);
    return full;
  }

  async write(relative: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    const full = await this.inside(relative);
    if (typeof content === "string" || content instanceof Uint8Array) {
      if (content.length <= smallFile) writeFileSync(full, content, { flag: "wx" });
      else await writeFile(full, content, { flag: "wx" });
    } else await pipeline(Readable.from(content), createWriteStream(full, { flags: "wx" }));
  }

  /** A hard link to a file of the same disk; false where that is not possible. */
  async link(relative: string, file: string): Promise<boolean> {
    const full = await this.inside(relative);
    return link(file, full).then(
      () => true,
      (error: unknown) => {
        if (["EXDEV", "EPERM", "EMLINK", "ENOTSUP"].includes((error as { code?: string }).code ?? "")) return false;
        throw error;
      },
    );
  }

  async spool(): Promise<Spool> {
    await mkdir(this.folder, { recursive: true });
    return new DiskSpool(path.join(this.folder, `.spool-${randomUUID()}`), async (file, relative) => rename(file, await this.inside(relative)));
  }
}
