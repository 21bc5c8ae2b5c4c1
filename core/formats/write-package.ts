/** One way to write a package, for the command line and the application alike: fit, write, read back, compare. */
import { Failure } from "../model/failure";
import { sourceListFile, type FileEntry, type FileSink, type FileTree, type Spool } from "../model/file-tree";
import { Findings } from "../model/finding";
import type { Item } from "../model/item";
import { ExpectedLabels } from "./expected";
import { fitItem } from "./fit";
import type { Format, Options, Outgoing, OutgoingItem, PackageSink } from "./format";
import { SourceList } from "./source-list";
import { settle } from "./settle";

/** A sink that may put a file by linking it to one that lies on the same disk; false where it could not. */
export type LinkingSink = FileSink & { link?: (path: string, file: string) => Promise<boolean> };

export type Written = { images: number; objects: number; expected: ExpectedLabels; absent: string[] };

class AnnouncedPictures implements PackageSink {
  readonly expected = new ExpectedLabels();
  /** Pictures that were left out on request; reading back has to be told of them. */
  readonly absent: string[] = [];
  readonly sources = new SourceList();
  constructor(
    private readonly sink: LinkingSink,
    private readonly images: string,
  ) {}

  write(path: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    return this.sink.write(path, content);
  }

  spool(): Promise<Spool> {
    return this.sink.spool();
  }

  async picture(path: string, item: OutgoingItem, says: Item = item): Promise<void> {
    this.expected.add(path, { ...says, size: item.size });
    this.sources.add(path, item);
    if (this.images === "none") {
      this.absent.push(path);
      return;
    }
    if (this.images === "link" && item.file !== undefined && (await this.sink.link?.(path, item.file))) return;
    await this.sink.write(path, await item.open());
  }

  expect(path: string, item: OutgoingItem): void {
    this.expected.add(path, item);
    this.sources.add(path, item);
  }
}

/** Fits every item to `format` and writes it. What is lost goes to `report`. The result knows what has to come back. */
export async function writePackage(
  format: Format,
  outgoing: Outgoing,
  sink: LinkingSink,
  options: Options,
  report: Findings,
): Promise<Written> {
  if (!format.write) throw new Failure("format-unknown", `"${format.name}" cannot be written.`);
  const announced = new AnnouncedPictures(sink, format.loosePictures ? (options["images"] ?? "copy") : "copy");
  const classes = format.classNames ? format.classNames(outgoing.classes) : outgoing.classes;
  const renamed = new Map(
    outgoing.classes.flatMap((info, n) =>
      classes[n] && classes[n].name !== info.name ? [[info.name, classes[n].name] as const] : [],
    ),
  );
  const named = (name: string) => renamed.get(name) ?? name;
  async function* fitted(): AsyncIterable<OutgoingItem> {
    for await (const item of outgoing.items) {
      const fit = fitItem(item, format, options, report);
      if (!fit) continue;
      const fittedItem: OutgoingItem = { ...fit, open: item.open };
      if (item.file !== undefined) fittedItem.file = item.file;
      // A source's own path, before a writer gives the picture another.
      fittedItem.origin = item.origin ?? { path: item.path, delivery: "", copy: 0 };
      if (renamed.size > 0) {
        fittedItem.classes = fit.classes.map(named);
        fittedItem.objects = fit.objects.map((object) => ({ ...object, class: named(object.class) }));
      }
      yield fittedItem;
    }
  }
  await format.write({ ...outgoing, classes, items: fitted() }, announced, options, report);
  await sink.write(sourceListFile, announced.sources.text());
  const loose = format.loosePictures ? announced.expected.count - announced.absent.length : null;
  for (const { path, text } of outgoing.files?.({ pictures: loose }) ?? []) await sink.write(path, text);
  return {
    images: announced.expected.count,
    objects: announced.expected.objects,
    expected: announced.expected,
    absent: announced.absent,
  };
}

/** The tree with the pictures that were left out listed as if they were there. */
function withAbsent(files: FileTree, absent: readonly string[]): FileTree {
  if (absent.length === 0) return files;
  return {
    entries: async (): Promise<FileEntry[]> => [
      ...(await files.entries()),
      ...absent.map((path) => ({ path, size: 0 })),
    ],
    read: (path) => files.read(path),
    stream: (path) => files.stream(path),
    readRange: (path, start, end) => files.readRange(path, start, end),
  };
}

/**
 * Reads a package with its own reader and compares it object by object with what went in, within the format's rounding.
 * Throws a Failure at the first difference: none of them was announced. `options` are those it was written with.
 */
export async function verifyPackage(
  format: Format,
  files: FileTree,
  written: Written,
  options: Options,
): Promise<void> {
  const { expected, absent } = written;
  const report = new Findings();
  const differs = (what: string) =>
    new Failure("package-differs", `What was written does not read back the same: ${what}.`, 500);
  const reading = await format.read(withAbsent(files, absent), format.readsBackWith?.(options) ?? {}, report);
  expected.startComparing();
  for await (const item of reading.items) {
    const size = expected.sizeOf(item.path);
    if (!size) {
      if (!item.present) continue;
      throw differs(`${item.path} came back and was not written`);
    }
    const difference = expected.compare(settle(item, { ...size, orientation: 1 }, report), format.rounding);
    if (difference) throw differs(difference);
  }
  const missing = expected.missing();
  if (missing !== null && expected.count > 0) throw differs(`${missing} did not come back`);
}
