/** What a format is to Larder: a declaration of what it carries, a reader, a writer. */
import type { FileEntry, FileSink, FileTree } from "../model/file-tree";
import type { Findings } from "../model/finding";
import type { ClassInfo, Item, ObjectFlag, Size } from "../model/item";
import type { ShapeKind } from "../model/shape";

/**
 * What a format can say. Fitting (fit.ts) and the loss report are computed from this alone.
 * `shapes` are the kinds it keeps as they are; "as" fields say what becomes of what it cannot keep.
 */
export type Carries = {
  shapes: readonly ShapeKind[];
  /** Several parts of one polygon: kept, or joined into one ring. */
  parts: "kept" | "joined";
  /** Holes in polygons: kept, rasterised into a mask, or filled. */
  holes: "kept" | "mask" | "lost";
  flags: readonly ObjectFlag[];
  /** All attributes, none, or the ones named. */
  attributes: boolean | readonly string[];
  captions: "none" | "one" | "many";
  fields: boolean;
  imageClasses: "none" | "one" | "many";
  /** Whether an area that is not the shape's own, and an image's licence, are kept; nothing is said where they are not. */
  area?: boolean;
  licence?: boolean;
  noSplit: boolean;
  /** Whether an image that holds nothing is told from one nobody has labeled. */
  empty: boolean;
};

/** How far a coordinate may come back from where it was: pixels, and shares of the image's larger side. */
export type Rounding = { pixels: number; relative: number };

export type Options = Readonly<Record<string, string>>;

export type OptionDeclaration = {
  name: string;
  /** Words it takes, or a kind of value in angle brackets. */
  values: readonly string[] | "<number>";
  default: string;
  describes: string;
  example: string;
  when: "reading" | "writing";
};

/** A source being read: its classes in its own order, and its items one at a time. */
export type Reading = { classes: ClassInfo[]; items: AsyncIterable<Item> };

/** An item with the size of its image; fitting needs both. */
export type SizedItem = Item & { size: Size };

/**
 * An item on its way out: settled to pixels, with its size and its bytes. `file` is where they lie on disk, where they
 * do.
 */
export type OutgoingItem = SizedItem & { open: () => Promise<Uint8Array>; file?: string; origin?: PictureOrigin };

/** Where an outgoing picture comes from: its path and delivery, and which copy of it this is (0 is itself). */
export type PictureOrigin = { path: string; delivery: string; copy: number };

export type Outgoing = {
  title: string;
  classes: ClassInfo[];
  items: AsyncIterable<OutgoingItem>;
  notes: string[];
  /** Further files beside what the format writes, made once all else is written; `pictures` lie in files of their own. */
  files?: (written: { pictures: number | null }) => { path: string; text: string }[];
};

/** Where a writer puts a package. Every picture is announced under the path its reader will give it. */
export interface PackageSink extends FileSink {
  /** Puts the item's picture at `path`; `says` is what reading gives back where that is not the item itself. */
  picture(path: string, item: OutgoingItem, says?: Item): Promise<void>;
  /** Says that reading gives `item` back under `path`, its picture being written as part of another file. */
  expect(path: string, item: OutgoingItem): void;
}

/** How much of what a collection holds; some writers choose their layout by it. */
export type Survey = { objects: number; imageClasses: number };

export type Format = {
  name: string;
  title: string;
  carries: Carries;
  /** What it carries under certain options, where they change that. */
  carriesWith?: (options: Options) => Carries;
  /** How reading has to be asked to understand what was written under these options. */
  readsBackWith?: (options: Options) => Options;
  rounding: Rounding;
  options: readonly OptionDeclaration[];
  /** How well the listing fits, 0…1, and why; `peek` gives the first bytes of a file. */
  recognise: (
    entries: readonly FileEntry[],
    peek: (path: string) => Promise<string>,
  ) => Promise<{ score: number; reason: string }>;
  read: (files: FileTree, options: Options, report: Findings) => Promise<Reading>;
  write?: (outgoing: Outgoing, sink: PackageSink, options: Options, report: Findings) => Promise<void>;
  /**
   * What of an item is left after the ladder of shapes, where the format has rules of its own; null leaves the image
   * out. `original` is the item before.
   */
  refit?: (item: SizedItem, options: Options, report: Findings, original: SizedItem) => SizedItem | null;
  /** Names as the format has to write them; called once with all classes. */
  classNames?: (classes: readonly ClassInfo[]) => ClassInfo[];
  /** Options that follow from what the collection holds. */
  surveyed?: (survey: Survey, options: Options) => Options;
  /** Where a trainer is to look in a package, in a sentence; none where nothing is written. */
  training: string;
  /** False where pictures are part of the format's own files and cannot be left out or linked. */
  loosePictures: boolean;
};
