import type { Format, Options, Reading } from "@larder/core/formats/format";
import { frameChoice, type FrameChoice } from "@larder/core/formats/label-frame";
import { openPicture } from "@larder/core/formats/open-picture";
import { settle, type ImageFacts } from "@larder/core/formats/settle";
import { formatNamed } from "@larder/core/formats/registry";
import { peekBytes, sniff } from "@larder/core/formats/sniff";
import { reportUntakenFiles } from "@larder/core/imaging/untaken-kinds";
import { Failure } from "@larder/core/model/failure";
import { textOf, type FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
import type { WhenAndWhere } from "@larder/server/pixels/exif";
import { probe } from "@larder/server/pixels/probe";
import { createHash } from "node:crypto";

/** Whether anything of a format is in a tree: it is recognised, or reading it gives labels or finds broken ones. */
async function isThere(format: Format, tree: FileTree): Promise<boolean> {
  const peek = async (path: string) => textOf(await tree.readRange(path, 0, peekBytes));
  if ((await format.recognise(await tree.entries(), peek)).score > 0) return true;
  const report = new Findings();
  const reading = await format.read(tree, {}, report);
  if (reading.classes.length > 0) return true;
  for await (const item of reading.items) if (item.state !== "unlabeled") return true;
  return report.list().some(({ severity }) => severity === "error");
}

/** The format asked for, or the one that fits best; other readings that fit nearly as well become a finding. */
export async function chooseFormat(tree: FileTree, from: string | undefined, report: Findings): Promise<Format> {
  if (from) {
    const format = formatNamed(from);
    if (!(await isThere(format, tree)))
      throw new Failure(
        "nothing-readable",
        `There is nothing of ${format.name} in it. Leave --from out to see what is.`,
      );
    return format;
  }
  const [best, ...others] = await sniff(tree);
  if (!best) throw new Failure("nothing-readable", "Nothing in it can be read.");
  for (const other of others) {
    if (other.score >= 0.5)
      report.add(
        "format-ambiguous",
        "",
        `read as ${best.format.name} (${best.reason}); --from ${other.format.name} reads it otherwise (${other.reason})`,
      );
  }
  return best.format;
}

/**
 * An item settled on its file's real size, with the file's bytes; `facts` and `bytes` are null where it is missing or
 * cannot be decoded.
 */
export type Settled = {
  item: Item;
  facts: (ImageFacts & { extension: string; taken: WhenAndWhere }) | null;
  bytes: Uint8Array | null;
};
/** With the codes of what was found on it. */
export type FoundItem = Settled & { findings: string[] };

/** Finds pictures whose same bytes stand under different classes. */
class Contradictions {
  private readonly classesOf = new Map<string, string>();

  look(item: Item, bytes: Uint8Array, report: Findings): void {
    if (item.classes.length === 0) return;
    const key = createHash("sha256").update(bytes).digest("base64");
    const names = [...item.classes].sort().join(", ");
    const before = this.classesOf.get(key);
    if (before === undefined) this.classesOf.set(key, names);
    else if (before !== names) report.add("label-contradiction", item.path, `${names}, and elsewhere ${before}`);
  }
}

function withoutSize({ declared: _, ...item }: Item): Item {
  return item;
}

/** Opens and settles one item; what is found on it goes to `report`. */
async function settledItem(
  tree: FileTree,
  item: Item,
  { maxPixels, frame, contradictions }: { maxPixels: number; frame: FrameChoice; contradictions: Contradictions },
  report: Findings,
): Promise<Settled> {
  if (!item.present)
    return {
      // A size that no picture may have is none; labels are told in shares of it, or in so many pixels.
      item:
        item.declared && item.declared.width * item.declared.height <= maxPixels
          ? settle(item, { ...item.declared, orientation: 1 }, report)
          : withoutSize(item),
      facts: null,
      bytes: null,
    };
  let bytes: Uint8Array;
  try {
    bytes = await openPicture(tree, item);
  } catch (error) {
    if (error instanceof Failure && error.code === "entry-unsafe") {
      report.add("entry-unsafe", item.path, error.message);
      return { item, facts: null, bytes: null };
    }
    // A file may be gone between being listed and being read; any other trouble ends the run.
    if ((error as { code?: string }).code !== "ENOENT") throw error;
    report.add("image-missing", item.path, "it was there when reading began, and is gone");
    return { item: { ...item, present: false }, facts: null, bytes: null };
  }
  try {
    const facts = await probe(bytes, maxPixels);
    contradictions.look(item, bytes, report);
    return { item: settle(item, facts, report, frame), facts, bytes };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    report.add("image-unreadable", item.path, error.message);
    return { item, facts: null, bytes: null };
  }
}

/**
 * Every item of a reading that `means` says is meant, settled as the reading's `options` say; what is found on those
 * goes to `report`.
 */
export async function* settledItems(
  tree: FileTree,
  reading: Reading,
  maxPixels: number,
  report: Findings,
  options: Options,
  means: (item: FoundItem) => boolean = () => true,
): AsyncIterable<FoundItem> {
  const setting = { maxPixels, frame: frameChoice(options), contradictions: new Contradictions() };
  reportUntakenFiles(
    (await tree.entries()).map(({ path }) => path),
    report,
  );
  for await (const item of reading.items) {
    const own = new Findings();
    const settled = await settledItem(tree, item, setting, own);
    const found = own.list();
    const whole = { ...settled, findings: found.map(({ code }) => code) };
    if (!means(whole)) continue;
    report.merge(found);
    yield whole;
  }
}
