/** Where readers read from and writers write to: folders, archives, buckets, all behind the same few calls. */
export type FileEntry = { path: string; size: number };

/** Paths use `/`, are relative and never leave the tree. */
export interface FileTree {
  entries(): Promise<FileEntry[]>;
  read(path: string): Promise<Uint8Array>;
  stream(path: string): AsyncIterable<Uint8Array>;
  /** Bytes `start` to `end` (exclusive, cut at the file's end). */
  readRange(path: string, start: number, end: number): Promise<Uint8Array>;
}

/** A file in the making that others are written beside; it gets its name when it is whole. */
export interface Spool {
  readonly size: number;
  append(bytes: Uint8Array): Promise<void>;
  commit(path: string): Promise<void>;
}

export interface FileSink {
  write(path: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void>;
  spool(): Promise<Spool>;
}

const imageExtensions = new Set(["jpg", "jpeg", "png", "webp", "bmp", "tif", "tiff", "gif", "avif", "jfif"]);

/** True for names that end like a picture's. */
export function isImagePath(path: string): boolean {
  return imageExtensions.has(extensionOf(path));
}

/** The lower-case extension without its dot; "" where there is none. */
export function extensionOf(path: string): string {
  const base = baseName(path);
  const dot = base.lastIndexOf(".");
  return dot > 0 ? base.slice(dot + 1).toLowerCase() : "";
}

export function baseName(path: string): string {
  return path.slice(path.lastIndexOf("/") + 1);
}

/** The folder part without a trailing slash; "" at the top. */
export function folderOf(path: string): string {
  const slash = path.lastIndexOf("/");
  return slash < 0 ? "" : path.slice(0, slash);
}

/** The path without its last extension. */
export function withoutExtension(path: string): string {
  const extension = extensionOf(path);
  return extension === "" ? path : path.slice(0, -extension.length - 1);
}

/** The base name up to its first dot, as sample files are grouped; a leading dot belongs to the name. */
export function uptoFirstDot(path: string): string {
  const folder = folderOf(path);
  const base = baseName(path);
  const dot = base.indexOf(".", 1);
  return (folder === "" ? "" : `${folder}/`) + (dot < 0 ? base : base.slice(0, dot));
}

/** A file's whole content as text: UTF-8, or Latin-1 where it is not valid UTF-8; a byte order mark is taken off. */
export async function readText(files: FileTree, path: string): Promise<string> {
  return textOf(await files.read(path));
}

/** Signs that no text holds: control characters but tab, line feed, form feed, carriage return and the end mark. */
const noTextSign = /[\u0000-\u0008\u000b\u000e-\u0019\u001b-\u001f]/;

/** True for texts that are none: pictures and other bytes that were read as one. */
export function isNoise(text: string): boolean {
  return noTextSign.test(text);
}

/** Bytes as text, as readText takes them; UTF-16 where a byte order mark says so. */
export function textOf(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder("utf-16le").decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder("utf-16be").decode(bytes);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder("latin1").decode(bytes);
  }
}

/** Why an archive's entry of this name must not be taken; null where its name is harmless. */
export function unsafeName(name: string): string | null {
  if (name.startsWith("/") || /^[A-Za-z]:/.test(name)) return "its path is absolute";
  if (name.split(/[\\/]/).includes("..")) return "its path leaves the archive";
  return name.includes("\u0000") ? "its name holds a NUL" : null;
}

/** The list in each package that says where its pictures come from. */
export const sourceListFile = "larder-sources.csv";

/** Files that say nothing of pictures: what operating systems leave in archives, and Larder's own list of sources. */
export function isLitter(path: string): boolean {
  return path
    .split("/")
    .some(
      (part) =>
        part === "__MACOSX" ||
        part === ".DS_Store" ||
        part === "Thumbs.db" ||
        part === sourceListFile ||
        part.startsWith("._"),
    );
}
