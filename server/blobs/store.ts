/** A blob store in a folder. Nothing is stored twice, nothing is changed in place. */
import { createHash, randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { access, mkdir, readdir, readFile, rename, rm, rmdir, stat, writeFile } from "node:fs/promises";
import { once } from "node:events";
import path from "node:path";
import type { Readable } from "node:stream";
import { isLeftBehind, processMark } from "../files/process-mark";
import { settings } from "../settings";
import type { BlobStore, DerivedKind } from "./blob-store";

export function sha256(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("hex");
}

/**
 * Does what puts something into a file's folder; the folder is made where it is not there, which it nearly always is.
 */
async function inFolderOf(file: string, put: () => Promise<void>): Promise<void> {
  try {
    await put();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw error;
    await mkdir(path.dirname(file), { recursive: true });
    await put();
  }
}

const isThere = (file: string) =>
  access(file).then(
    () => true,
    () => false,
  );

export class FolderStore implements BlobStore {
  constructor(private readonly folder: string) {}

  private blobPath(hash: string): string {
    return path.join(this.folder, "blobs", hash.slice(0, 2), hash);
  }

  private derivedPath(kind: DerivedKind, key: string): string {
    return path.join(this.folder, kind, key.slice(0, 2), key);
  }

  private async place(target: string, content: Uint8Array | Readable): Promise<void> {
    // Written aside and moved, so that a name never stands for half its bytes.
    const aside = this.scratchFile();
    try {
      await inFolderOf(aside, () => writeFile(aside, content));
      await inFolderOf(target, () => rename(aside, target));
    } catch (error) {
      await rm(aside, { force: true });
      throw error;
    }
  }

  /** Stores bytes, or what a stream gives, under their hash, which the caller has computed. */
  async put(hash: string, content: Uint8Array | Readable): Promise<void> {
    const target = this.blobPath(hash);
    if (!(await isThere(target))) await this.place(target, content);
    else if (!(content instanceof Uint8Array)) content.destroy();
  }

  /** Moves a file into the store; `hash` is that of its content. */
  async putFile(hash: string, file: string): Promise<void> {
    const target = this.blobPath(hash);
    if (await isThere(target)) return rm(file, { force: true });
    await inFolderOf(target, () => rename(file, target));
  }

  has(hash: string): Promise<boolean> {
    return isThere(this.blobPath(hash));
  }

  read(hash: string): Promise<Uint8Array> {
    return readFile(this.blobPath(hash));
  }

  async stream(hash: string, range?: { start: number; end: number }): Promise<Readable> {
    const stream = createReadStream(this.blobPath(hash), range);
    // What is not there is said here, not where the first byte is read.
    await once(stream, "open");
    return stream;
  }

  async size(hash: string): Promise<number> {
    return (await stat(this.blobPath(hash))).size;
  }

  async remove(hash: string): Promise<void> {
    await rm(this.blobPath(hash), { force: true });
    await rm(this.derivedPath("thumbnails", hash), { force: true });
    await rm(this.derivedPath("class-pictures", hash), { force: true });
    await rm(this.derivedPath("cutouts", hash), { force: true, recursive: true });
  }

  async putDerived(kind: DerivedKind, key: string, bytes: Uint8Array): Promise<void> {
    await this.place(this.derivedPath(kind, key), bytes);
  }

  hasDerived(kind: DerivedKind, key: string): Promise<boolean> {
    return isThere(this.derivedPath(kind, key));
  }

  async derivedSize(kind: DerivedKind, key: string): Promise<number | null> {
    try {
      return (await stat(this.derivedPath(kind, key))).size;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === "ENOENT") return null;
      throw error;
    }
  }

  async removeDerived(kind: DerivedKind, key: string): Promise<void> {
    await rm(this.derivedPath(kind, key), { force: true });
  }

  readDerived(kind: DerivedKind, key: string): Promise<Uint8Array> {
    return readFile(this.derivedPath(kind, key));
  }

  /** Brings a store whose files lie two folders deep, as they once did, to one. Cut short, it goes on the next time. */
  async bringUp(): Promise<void> {
    for (const kind of ["blobs", "thumbnails", "renders"]) {
      for (const outer of await foldersIn(path.join(/* turbopackIgnore: true */ this.folder, kind))) {
        for (const inner of await foldersIn(outer)) {
          for (const name of await readdir(inner)) await rename(path.join(inner, name), path.join(outer, name));
          await rmdir(inner);
        }
      }
    }
  }

  /** A file outside the store that a writer fills before it is put. */
  async scratch(): Promise<string> {
    const file = this.scratchFile();
    await mkdir(path.dirname(file), { recursive: true });
    return file;
  }

  private scratchFile(): string {
    return path.join(this.folder, "scratch", processMark(), randomUUID());
  }

  /** Removes what processes that were killed were writing. */
  async removeLeftBehind(): Promise<void> {
    const folder = path.join(this.folder, "scratch");
    for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => []))
      if (!entry.isDirectory() || isLeftBehind(entry.name))
        await rm(path.join(folder, entry.name), { recursive: true, force: true });
  }

  /** The hashes and keys that one kind of file is there for, some hundreds or thousands at a time. */
  async *names(kind: DerivedKind | "blobs"): AsyncIterable<string[]> {
    for (const folder of await foldersIn(path.join(this.folder, kind)))
      yield (await readdir(folder)).filter((name) => /^[0-9a-f]{64}$/.test(name));
  }
}

async function foldersIn(folder: string): Promise<string[]> {
  return (await readdir(folder, { withFileTypes: true }).catch(() => []))
    .filter((entry) => entry.isDirectory())
    .map(({ name }) => path.join(folder, name));
}

let store: FolderStore | null = null;

export function blobs(): FolderStore {
  store ??= new FolderStore(path.join(settings().home, "store"));
  return store;
}
