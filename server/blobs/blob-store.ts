/** Where bytes are kept, by their SHA-256: a folder, or anything else that can do this. Everything answers later. */
import type { Readable } from "node:stream";

/**
 * What was made from a blob and can be made again: thumbnails, rendered outputs, cut-outs,
 * pictures of a version's classes by its digest. The key of a cut-out is the
 * blob's hash, a slash, and a hash of what was cut out.
 */
export type DerivedKind = "thumbnails" | "renders" | "cutouts" | "class-pictures";

export interface BlobStore {
  /** Stores bytes, or what a stream gives, under their hash, which the caller has computed. */
  put(hash: string, content: Uint8Array | Readable): Promise<void>;
  /** Takes over a local file; `hash` is that of its content. */
  putFile(hash: string, file: string): Promise<void>;
  has(hash: string): Promise<boolean>;
  read(hash: string): Promise<Uint8Array>;
  /** The bytes as a stream, or a range of them, both ends included. Throws where there are none. */
  stream(hash: string, range?: { start: number; end: number }): Promise<Readable>;
  size(hash: string): Promise<number>;
  /** Removes bytes, and the thumbnail and cut-outs that were made of them. */
  remove(hash: string): Promise<void>;
  putDerived(kind: DerivedKind, key: string, bytes: Uint8Array): Promise<void>;
  hasDerived(kind: DerivedKind, key: string): Promise<boolean>;
  /** How long it is; null where it is not there. */
  derivedSize(kind: DerivedKind, key: string): Promise<number | null>;
  readDerived(kind: DerivedKind, key: string): Promise<Uint8Array>;
  removeDerived(kind: DerivedKind, key: string): Promise<void>;
  /** The hashes and keys that one kind of file is there for, a number at a time. */
  names(kind: DerivedKind | "blobs"): AsyncIterable<string[]>;
  /** A local file outside the store that a writer fills before it is put. */
  scratch(): Promise<string>;
  /** Removes what processes that were killed were writing. */
  removeLeftBehind(): Promise<void>;
}
