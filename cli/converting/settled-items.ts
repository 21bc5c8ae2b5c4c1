import type { Format, Options, Reading } from "@larder/core/formats/format";
import { frameChoice } from "@larder/core/formats/label-frame";
import { openPicture } from "@larder/core/formats/open-picture";
import { settle, type ImageFacts } from "@larder/core/formats/settle";
import { formatNamed } from "@larder/core/formats/registry";
import { peekBytes, sniff } from "@larder/core/formats/sniff";
import { reportUntakenFiles } from "@larder/core/imaging/untaken-kinds";
import { Failure } from "@larder/core/model/failure";
import { textOf, type FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
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
export type Settled = { item: Item; facts: (ImageFacts & { extension: string }) | null; bytes: Uint8Array | null };

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

/** Every item of a reading, settled as the reading's `options` say; findings go to `report`. */
export async function* settledItems(
  tree: FileTree,
  reading: Reading,
  maxPixels: number,
  report: Findings,
  options: Options,
): AsyncIterable<Settled> {
  const frame = frameChoice(options);
  reportUntakenFiles(
    (await tree.entries()).map(({ path }) => path),
    report,
  );
  const contradictions = new Contradictions();
  for await (const item of reading.items) {
    if (!item.present) {
      yield {
        // A size that no picture may have is none; labels are told in shares of it, or in so many pixels.
        item:
          item.declared && item.declared.width * item.declared.height <= maxPixels
            ? settle(item, { ...item.declared, orientation: 1 }, report)
            : withoutSize(item),
        facts: null,
        bytes: null,
      };
      continue;
    }
    let facts: ImageFacts & { extension: string };
    let bytes: Uint8Array;
    try {
      bytes = await openPicture(tree, item);
    } catch (error) {
      if (error instanceof Failure && error.code === "entry-unsafe") {
        report.add("entry-unsafe", item.path, error.message);
        yield { item, facts: null, bytes: null };
        continue;
      }
      // A file may be gone between being listed and being read; any other trouble ends the run.
      if ((error as { code?: string }).code !== "ENOENT") throw error;
      report.add("image-missing", item.path, "it was there when reading began, and is gone");
      yield { item: { ...item, present: false }, facts: null, bytes: null };
      continue;
    }
    try {
      facts = await probe(bytes, maxPixels);
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      report.add("image-unreadable", item.path, error.message);
      yield { item, facts: null, bytes: null };
      continue;
    }
    contradictions.look(item, bytes, report);
    yield { item: settle(item, facts, report, frame), facts, bytes };
  }
}
