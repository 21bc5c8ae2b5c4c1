/** Bytes by their SHA-256, in a folder. Nothing is stored twice, nothing is changed in place. */
import { createHash, randomUUID } from "node:crypto";
import { createReadStream, createWriteStream, existsSync } from "node:fs";
import { mkdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { pipeline } from "node:stream/promises";
import { Readable } from "node:stream";
import { settings } from "../settings";

/** What was made from a blob and can be made again: thumbnails, rendered outputs. */
export type DerivedKind = "thumbnails" | "renders";

export function sha256(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("hex");
}

export class BlobStore {
  constructor(private readonly folder: string) {}

  private blobPath(hash: string): string {
    return path.join(this.folder, "blobs", hash.slice(0, 2), hash.slice(2, 4), hash);
  }

  private derivedPath(kind: DerivedKind, key: string): string {
    return path.join(this.folder, kind, key.slice(0, 2), key.slice(2, 4), key);
  }

  private async place(target: string, bytes: Uint8Array): Promise<void> {
    await mkdir(path.dirname(target), { recursive: true });
    // Written aside and moved, so that a name never stands for half its bytes.
    const aside = `${target}.${randomUUID()}`;
    try {
      await writeFile(aside, bytes);
      await rename(aside, target);
    } catch (error) {
      await rm(aside, { force: true });
      throw error;
    }
  }

  /** Stores bytes under their hash, which the caller has computed. */
  async put(hash: string, bytes: Uint8Array): Promise<void> {
    const target = this.blobPath(hash);
    if (!existsSync(target)) await this.place(target, bytes);
  }

  /** Moves a file into the store; `hash` is that of its content. */
  async putFile(hash: string, file: string): Promise<void> {
    const target = this.blobPath(hash);
    if (existsSync(target)) return rm(file, { force: true });
    await mkdir(path.dirname(target), { recursive: true });
    await rename(file, target);
  }

  has(hash: string): boolean {
    return existsSync(this.blobPath(hash));
  }

  read(hash: string): Promise<Uint8Array> {
    return readFile(this.blobPath(hash));
  }

  stream(hash: string, range?: { start: number; end: number }): Readable {
    return createReadStream(this.blobPath(hash), range);
  }

  async size(hash: string): Promise<number> {
    return (await stat(this.blobPath(hash))).size;
  }

  async remove(hash: string): Promise<void> {
    await rm(this.blobPath(hash), { force: true });
    await rm(this.derivedPath("thumbnails", hash), { force: true });
  }

  async putDerived(kind: DerivedKind, key: string, bytes: Uint8Array): Promise<void> {
    await this.place(this.derivedPath(kind, key), bytes);
  }

  hasDerived(kind: DerivedKind, key: string): boolean {
    return existsSync(this.derivedPath(kind, key));
  }

  readDerived(kind: DerivedKind, key: string): Promise<Uint8Array> {
    return readFile(this.derivedPath(kind, key));
  }

  /** A file outside the store that a writer fills before it is put. */
  async scratch(): Promise<string> {
    const folder = path.join(this.folder, "scratch");
    await mkdir(folder, { recursive: true });
    return path.join(folder, randomUUID());
  }
}

/** Hash and length of a file, read once. */
export async function hashFile(file: string): Promise<{ sha256: string; bytes: number }> {
  const hash = createHash("sha256");
  let bytes = 0;
  for await (const chunk of createReadStream(file, { highWaterMark: 1 << 20 })) {
    hash.update(chunk as Buffer);
    bytes += (chunk as Buffer).length;
  }
  return { sha256: hash.digest("hex"), bytes };
}

export async function writeFromStream(file: string, content: AsyncIterable<Uint8Array>): Promise<void> {
  await pipeline(Readable.from(content), createWriteStream(file));
}

let store: BlobStore | null = null;

export function blobs(): BlobStore {
  store ??= new BlobStore(path.join(settings().home, "store"));
  return store;
}
