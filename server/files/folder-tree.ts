import { Failure } from "@larder/core/model/failure";
import { isLitter, textOf, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import { namesFolder, pathSuffix } from "./named-place";
import { createReadStream, existsSync, readdirSync, readFileSync, statSync } from "node:fs";
import { open, readdir, readFile } from "node:fs/promises";
import path from "node:path";

/** What stands in a name, read as UTF-8, for bytes that are none. */
const replacement = "\uFFFD";

function beneath(place: string | Buffer, name: Buffer): Buffer {
  return Buffer.concat([Buffer.from(place as string), Buffer.from(path.sep), name]);
}

/**
 * Files up to this size are read at once: for label files the way to another thread and back costs more than the work.
 */
const smallFile = 16 * 1024;

/** Bytes `start` to `end` of a file on disk. */
export async function readFileRange(file: string | Buffer, start: number, end: number): Promise<Uint8Array> {
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
  /** Files whose path on disk is no UTF-8, by the path they have here. */
  private readonly odd = new Map<string, Buffer>();
  private renamed: ReadonlyMap<string, string> | null = null;

  constructor(folder: string) {
    this.folder = path.resolve(folder);
  }

  entries(): Promise<FileEntry[]> {
    this.listed ??= this.list();
    return this.listed;
  }

  private async list(): Promise<FileEntry[]> {
    const found: FileEntry[] = [];
    const take = async (
      entry: { isDirectory: () => boolean; isFile: () => boolean },
      name: string,
      place: string | Buffer,
    ): Promise<void> => {
      if (isLitter(name) || name === namesFolder) return;
      if (entry.isDirectory()) return walk(name, place);
      if (!entry.isFile()) return;
      // Asking at once is several times quicker than a round trip for each; a file may be gone by now.
      const size = statSync(place, { throwIfNoEntry: false })?.size;
      if (size === undefined) return;
      if (typeof place !== "string") this.odd.set(name, place);
      if (size <= smallFile) this.small.add(name);
      found.push({ path: name, size });
    };
    const walk = async (relative: string, place: string | Buffer): Promise<void> => {
      const below = (name: string) => (relative === "" ? name : `${relative}/${name}`);
      const entries = await readdir(place, { withFileTypes: true });
      for (const entry of entries)
        if (!entry.name.includes(replacement))
          await take(
            entry,
            below(entry.name),
            typeof place === "string" ? `${place}${path.sep}${entry.name}` : beneath(place, Buffer.from(entry.name)),
          );
      if (!entries.some(({ name }) => name.includes(replacement))) return;
      // Names that are not UTF-8 come as Latin-1, and are asked for by their bytes.
      for (const entry of await readdir(place, { withFileTypes: true, encoding: "buffer" })) {
        if (entry.name.toString("utf8").includes(replacement))
          await take(entry, below(textOf(entry.name)), beneath(place, entry.name));
      }
    };
    await walk("", this.folder);
    for (const [relative, place] of this.renamedFiles()) {
      const size = statSync(place, { throwIfNoEntry: false })?.size;
      if (size !== undefined) found.push({ path: relative, size });
    }
    return found.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** Files that lie under a hash because a disk cannot have their path (named-place.ts), by that path. */
  private renamedFiles(): ReadonlyMap<string, string> {
    if (this.renamed) return this.renamed;
    const folder = path.join(this.folder, namesFolder);
    this.renamed = new Map(
      (existsSync(folder) ? readdirSync(folder) : [])
        .filter((name) => name.endsWith(pathSuffix))
        .map((name) => [
          readFileSync(path.join(folder, name), "utf8"),
          path.join(folder, name.slice(0, -pathSuffix.length)),
        ]),
    );
    return this.renamed;
  }

  /** Where a file of the tree lies on disk. Throws for a path that leaves it. */
  onDisk(relative: string): string {
    const renamed = this.renamedFiles().get(relative);
    if (renamed !== undefined) return renamed;
    const full = path.resolve(this.folder, relative);
    if (!full.startsWith(this.folder + path.sep))
      throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    return full;
  }

  /** As onDisk; null where the path on disk is no UTF-8, so that no text can name it. */
  nameable(relative: string): string | null {
    return this.odd.has(relative) ? null : this.onDisk(relative);
  }

  private place(relative: string): string | Buffer {
    return this.odd.get(relative) ?? this.onDisk(relative);
  }

  /** What changes when a file changes: its size and when it was last written. Throws where it is gone. */
  stampOf(relative: string): string {
    const { size, mtimeMs } = statSync(this.place(relative));
    return `${size} ${mtimeMs}`;
  }

  async read(relative: string): Promise<Uint8Array> {
    // What was found while listing lies inside, so its path needs no looking at.
    return this.small.has(relative)
      ? readFileSync(this.odd.get(relative) ?? `${this.folder}${path.sep}${relative}`)
      : readFile(this.place(relative));
  }

  readRange(relative: string, start: number, end: number): Promise<Uint8Array> {
    return readFileRange(this.place(relative), start, end);
  }

  async *stream(relative: string): AsyncIterable<Uint8Array> {
    for await (const chunk of createReadStream(this.place(relative), { highWaterMark: 1 << 20 }))
      yield chunk as Uint8Array;
  }
}
