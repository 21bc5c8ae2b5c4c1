/** What an annotation file says, gathered by image: names are matched to pictures once, in the order they come. */
import type { FileEntry } from "../model/file-tree";
import type { Findings } from "../model/finding";
import type { Item } from "../model/item";
import { ImageIndex } from "./image-index";

export class AnnotatedImages<ImageEntry> {
  private readonly index: ImageIndex;
  private readonly byName = new Map<string, ImageEntry>();
  private readonly byPath = new Map<string, { present: boolean; said: ImageEntry }>();

  constructor(
    entries: readonly FileEntry[],
    private readonly report: Findings,
  ) {
    this.index = new ImageIndex(entries);
  }

  /**
   * What was said so far of the picture that `name` means in the file `saidBy`. A picture that is not there is
   * reported once.
   */
  of(name: string, saidBy: string, blank: () => ImageEntry): ImageEntry {
    const key = `${saidBy}\u0000${name}`;
    const known = this.byName.get(key);
    if (known) return known;
    const match = this.index.find(name, saidBy);
    const present = match !== null && "path" in match;
    const path = present ? match.path : name.replaceAll("\\", "/");
    if (!present)
      this.report.add(
        "image-missing",
        name,
        match ? `several pictures fit: ${match.ambiguous.slice(0, 3).join(", ")}` : `named in ${saidBy}`,
      );
    const entry = this.byPath.get(path) ?? { present, said: blank() };
    this.byPath.set(path, entry);
    this.byName.set(key, entry.said);
    return entry.said;
  }

  /** All that was said, in the order it was first said. */
  *said(): Generator<ImageEntry> {
    for (const { said } of this.byPath.values()) yield said;
  }

  /** Every picture of the source in its order, then those that are named and missing. */
  async *items(itemOf: (path: string, said: ImageEntry | undefined) => Item): AsyncIterable<Item> {
    for (const path of this.index.paths) yield itemOf(path, this.byPath.get(path)?.said);
    for (const [path, { present, said }] of this.byPath) if (!present) yield { ...itemOf(path, said), present: false };
  }
}
