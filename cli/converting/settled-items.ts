import type { Format, Options, Reading } from "@larder/core/formats/format";
import { settle, type ImageFacts } from "@larder/core/formats/settle";
import { formatNamed } from "@larder/core/formats/registry";
import { sniff } from "@larder/core/formats/sniff";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
import { probe } from "@larder/server/pixels/probe";

/** The format asked for, or the one that fits best; other readings that fit nearly as well become a finding. */
export async function chooseFormat(tree: FileTree, from: string | undefined, report: Findings): Promise<Format> {
  if (from) return formatNamed(from);
  const guesses = await sniff(tree);
  const [best, second] = guesses;
  if (!best) throw new Failure("nothing-readable", "Nothing in it can be read.");
  if (second && second.score >= 0.5) report.add("format-ambiguous", "", `read as ${best.format.name} (${best.reason}); --from ${second.format.name} reads it otherwise`);
  return best.format;
}

/** An item settled on its file's real size; `facts` is null where the file is missing or cannot be decoded. */
export type Settled = { item: Item; facts: ImageFacts | null };

/** Every item of a reading, settled; findings go to `report`. */
export async function* settledItems(tree: FileTree, reading: Reading, maxPixels: number, report: Findings): AsyncIterable<Settled> {
  for await (const item of reading.items) {
    if (!item.present) {
      yield { item: item.declared && item.units === "pixels" ? settle(item, { ...item.declared, orientation: 1 }, report) : item, facts: null };
      continue;
    }
    let facts: ImageFacts;
    try {
      const { extension: _, ...found } = await probe(await tree.read(item.path), maxPixels);
      facts = found;
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      report.add("image-unreadable", item.path, error.message);
      yield { item, facts: null };
      continue;
    }
    yield { item: settle(item, facts, report), facts };
  }
}

/** `KEY=VALUE` words as options; throws where one is no pair. */
export function parseOptions(words: readonly string[]): Options {
  return Object.fromEntries(
    words.map((word) => {
      const at = word.indexOf("=");
      if (at < 1) throw new Failure("usage", `--option takes KEY=VALUE, not "${word}".`);
      return [word.slice(0, at), word.slice(at + 1)];
    }),
  );
}
