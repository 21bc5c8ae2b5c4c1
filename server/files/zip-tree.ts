/**
 * A zip as a file tree. Archives are hostile until proven otherwise: paths, links, sizes and ratios are checked before
 * anything is read.
 */
import { Column } from "@larder/core/columns/column";
import { Failure } from "@larder/core/model/failure";
import { isImagePath, isLitter, unsafeName, type FileEntry, type FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import pLimit from "p-limit";
import { createWriteStream } from "node:fs";
import { join } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { readFileRange } from "./folder-tree";
import { scratchFolder } from "./scratch-folder";
import { ZipFile, type ListedEntry, type PackedEntry } from "./zip-file";

export type ArchiveLimits = { archiveBytes: number; entryBytes: number; ratio: number };

const linkMode = 0o120000;
const typeMask = 0o170000;
/** Small files compress well without being bombs; the ratio counts only above this many unpacked bytes. */
const ratioFloor = 1 << 20;

function unsafeReason(entry: ListedEntry, limits: ArchiveLimits): string | null {
  const named = unsafeName(entry.fileName);
  if (named) return named;
  if (((entry.externalFileAttributes >>> 16) & typeMask) === linkMode) return "it is a link";
  if (entry.generalPurposeBitFlag & 1) return "it is encrypted";
  if (entry.uncompressedSize > limits.entryBytes)
    return `it unpacks to ${entry.uncompressedSize.toLocaleString("en-US")} bytes`;
  if (
    entry.uncompressedSize > ratioFloor &&
    entry.uncompressedSize > limits.ratio * Math.max(1, entry.compressedSize)
  ) {
    return `it unpacks to ${Math.round(entry.uncompressedSize / Math.max(1, entry.compressedSize))} times its size`;
  }
  return null;
}

/** Header, name and data of an entry take at least this many bytes before the data. */
const headerBytes = 30;

/** Where every entry lies, in columns: as objects, hundreds of thousands of them would fill the memory. */
class Places {
  private readonly byPath = new Map<string, number>();
  private readonly numbers = new Column(Float64Array);

  has(path: string): boolean {
    return this.byPath.has(path);
  }

  add(
    path: string,
    { compressionMethod, compressedSize, uncompressedSize, relativeOffsetOfLocalHeader }: PackedEntry,
  ): void {
    this.byPath.set(path, this.numbers.length);
    this.numbers.pushAll([compressionMethod, compressedSize, uncompressedSize, relativeOffsetOfLocalHeader], 4);
  }

  /** The entry of that name; throws a Failure where there is none. */
  entry(path: string): PackedEntry {
    const at = this.byPath.get(path);
    if (at === undefined) throw new Failure("file-missing", `There is no ${path} in the archive.`);
    return {
      compressionMethod: this.numbers.at(at),
      compressedSize: this.numbers.at(at + 1),
      uncompressedSize: this.numbers.at(at + 2),
      relativeOffsetOfLocalHeader: this.numbers.at(at + 3),
    };
  }

  delete(path: string): void {
    this.byPath.delete(path);
  }

  /**
   * Entries that lie in the bytes of another one, which no packer does: a small archive of them unpacks to any size,
   * in any time.
   */
  overlapping(): string[] {
    const start = (at: number) => this.numbers.at(at + 3);
    const found: string[] = [];
    let end = 0;
    for (const [path, at] of [...this.byPath].sort(([, a], [, b]) => start(a) - start(b))) {
      if (start(at) < end) found.push(path);
      else end = start(at) + headerBytes + this.numbers.at(at + 1);
    }
    return found;
  }

  list(): FileEntry[] {
    return Array.from(this.byPath, ([path, at]) => ({ path, size: this.numbers.at(at + 2) }));
  }
}

/** Files looked into at once, to keep the disk and the unpacking busy. */
const checkedAtOnce = 8;

/**
 * Leaves out the entries, pictures aside, that do not unpack to what the directory says of them: readers must be able
 * to trust that every file of the tree is whole. Pictures are found out when each is looked at.
 */
async function leaveOutLying(zip: ZipFile, places: Places, report: Findings): Promise<void> {
  const limit = pLimit(checkedAtOnce);
  const check = async (path: string): Promise<void> => {
    const trouble = await zip.troubleOf(places.entry(path));
    if (trouble === null) return;
    report.add("entry-unsafe", path, trouble);
    places.delete(path);
  };
  await Promise.all(
    places
      .list()
      .filter(({ path }) => !isImagePath(path))
      .map(({ path }) => limit(check, path)),
  );
}

export class ZipTree implements FileTree {
  private readonly unpacked = new Map<string, Promise<string>>();
  private scratch: ReturnType<typeof scratchFolder> | null = null;

  private constructor(
    private readonly zip: ZipFile,
    private readonly places: Places,
  ) {}

  /**
   * Reads the archive's directory. Unsafe entries become findings and are left out; what is no zip throws a Failure.
   */
  static async open(file: string, limits: ArchiveLimits, report: Findings): Promise<ZipTree> {
    const zip = await ZipFile.open(file);
    const places = new Places();
    let total = 0;
    try {
      for await (const entry of zip.entries()) {
        const path = entry.fileName.replaceAll("\\", "/").replace(/^(\.\/)+/, "");
        if (path.endsWith("/") || isLitter(path)) continue;
        const reason = unsafeReason(entry, limits);
        if (reason) {
          report.add("entry-unsafe", entry.fileName.slice(0, 200), reason);
          continue;
        }
        total += entry.uncompressedSize;
        if (total > limits.archiveBytes) {
          throw new Failure(
            "archive-too-large",
            `The archive unpacks to more than the ${Math.round(limits.archiveBytes / 2 ** 20).toLocaleString("en-US")} MB allowed (LARDER_MAX_ARCHIVE_MB).`,
          );
        }
        if (places.has(path)) report.add("entry-unsafe", path, "a second entry of the same name");
        else places.add(path, entry);
      }
      for (const path of places.overlapping()) {
        report.add("entry-unsafe", path, "it lies in the bytes of another entry");
        places.delete(path);
      }
      await leaveOutLying(zip, places, report);
    } catch (error) {
      zip.close();
      throw error;
    }
    return new ZipTree(zip, places);
  }

  entries(): Promise<FileEntry[]> {
    return Promise.resolve(this.places.list());
  }

  async *stream(path: string): AsyncIterable<Uint8Array> {
    const stream = await this.zip.stream(this.places.entry(path));
    try {
      for await (const chunk of stream) yield chunk as Uint8Array;
    } finally {
      stream.destroy();
    }
  }

  async read(path: string): Promise<Uint8Array> {
    try {
      return await this.zip.read(this.places.entry(path));
    } catch (error) {
      if (error instanceof Failure && error.code === "archive-damaged")
        throw new Failure("entry-unsafe", `the entry is damaged or lies about itself: ${error.message}`);
      throw error;
    }
  }

  /**
   * Ranges come from a copy of the entry outside the archive: inside it may be compressed. The copy goes when the tree
   * is closed.
   */
  async readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    let unpacked = this.unpacked.get(path);
    if (!unpacked) {
      // Numbered before anything is waited for: two files unpacked at once must not share a name.
      unpacked = this.unpack(path, String(this.unpacked.size));
      this.unpacked.set(path, unpacked);
    }
    return readFileRange(await unpacked, start, end);
  }

  private async unpack(path: string, name: string): Promise<string> {
    this.scratch ??= scratchFolder();
    const file = join((await this.scratch).folder, name);
    await pipeline(Readable.from(this.stream(path)), createWriteStream(file));
    return file;
  }

  close(): void {
    this.zip.close();
    void this.scratch?.then(({ drop }) => drop()).catch(() => undefined);
  }
}
