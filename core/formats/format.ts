/** What a format is to Larder: a declaration of what it carries, a reader, a writer. */
import type { FileEntry, FileSink, FileTree } from "../model/file-tree";
import type { Findings } from "../model/finding";
import type { ClassInfo, Item, Size } from "../model/item";
import type { ShapeKind } from "../model/shape";

/** What a format can say. The loss report is computed from this and the items (loss.ts). */
export type Carries = {
  shapes: readonly ShapeKind[];
  holes: boolean;
  attributes: boolean;
  captions: boolean;
  imageClasses: boolean;
  noSplit: boolean;
};

export type Options = Readonly<Record<string, string>>;

export type OptionDeclaration = {
  name: string;
  type: string;
  default: string;
  describes: string;
  example: string;
};

/** A source being read: its classes in its own order, and its items one at a time. */
export type Reading = { classes: ClassInfo[]; items: AsyncIterable<Item> };

/** An item on its way out: settled to pixels, with its size and its bytes. */
export type OutgoingItem = Item & { size: Size; open: () => Promise<Uint8Array> | AsyncIterable<Uint8Array> };

export type Outgoing = { title: string; classes: ClassInfo[]; items: AsyncIterable<OutgoingItem>; notes: string[] };

export type Totals = { images: number; objects: number };

export type Format = {
  name: string;
  title: string;
  carries: Carries;
  options: readonly OptionDeclaration[];
  /** How well the listing fits, 0…1, and why; `peek` gives the first bytes of a file. */
  recognise: (entries: readonly FileEntry[], peek: (path: string) => Promise<string>) => Promise<{ score: number; reason: string }>;
  read: (files: FileTree, options: Options, report: Findings) => Promise<Reading>;
  write?: (outgoing: Outgoing, sink: FileSink, options: Options, report: Findings) => Promise<Totals>;
};

/** An open item's bytes as one array. */
export async function bytesOf(content: Promise<Uint8Array> | AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  if (content instanceof Promise) return content;
  const chunks: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of content) {
    chunks.push(chunk);
    length += chunk.length;
  }
  const all = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}
