import { Failure } from "@larder/core/model/failure";
import { isLitter, type FileEntry, type FileSink, type FileTree } from "@larder/core/model/file-tree";
import { createReadStream, createWriteStream } from "node:fs";
import { mkdir, opendir, readFile, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { pipeline } from "node:stream/promises";
import { Readable } from "node:stream";

/** A folder on disk. Links are not followed: they could lead out of it. */
export class FolderTree implements FileTree {
  constructor(private readonly folder: string) {}

  async entries(): Promise<FileEntry[]> {
    const found: FileEntry[] = [];
    const walk = async (relative: string): Promise<void> => {
      for await (const entry of await opendir(path.join(this.folder, relative))) {
        const own = relative === "" ? entry.name : `${relative}/${entry.name}`;
        if (isLitter(own)) continue;
        if (entry.isDirectory()) await walk(own);
        else if (entry.isFile()) found.push({ path: own, size: (await stat(path.join(this.folder, own))).size });
      }
    };
    await walk("");
    return found.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  private inside(relative: string): string {
    const full = path.resolve(this.folder, relative);
    if (!full.startsWith(path.resolve(this.folder) + path.sep)) throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    return full;
  }

  read(relative: string): Promise<Uint8Array> {
    return readFile(this.inside(relative));
  }

  async *stream(relative: string): AsyncIterable<Uint8Array> {
    for await (const chunk of createReadStream(this.inside(relative), { highWaterMark: 1 << 20 })) yield chunk as Uint8Array;
  }
}

/** Writes files into a folder; a path that would leave it is refused. */
export class FolderSink implements FileSink {
  constructor(private readonly folder: string) {}

  async write(relative: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    const full = path.resolve(this.folder, relative);
    if (!full.startsWith(path.resolve(this.folder) + path.sep)) throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    await mkdir(path.dirname(full), { recursive: true });
    if (typeof content === "string" || content instanceof Uint8Array) await writeFile(full, content, { flag: "wx" });
    else await pipeline(Readable.from(content), createWriteStream(full, { flags: "wx" }));
  }
}
