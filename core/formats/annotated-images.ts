/** What an annotation file says, gathered by image: names are matched to pictures once, in the order they come. */
import type { FileEntry } from "../model/file-tree";
import type { Findings } from "../model/finding";
import type { Item } from "../model/item";
import { ImageIndex } from "./image-index";

export class AnnotatedImages<ImageEntry> {
  private readonly index: ImageIndex;
  private readonly byName = new Map<string, ImageEntry>();
  private readonly byPath = new Map<string, { present: boolean; annotation: ImageEntry }>();

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
    const entry = this.byPath.get(path) ?? { present, annotation: blank() };
    this.byPath.set(path, entry);
    this.byName.set(key, entry.annotation);
    return entry.annotation;
  }

  /** All that was said, in the order it was first said. */
  *annotations(): Generator<ImageEntry> {
    for (const { annotation: said } of this.byPath.values()) yield said;
  }

  /** Every picture of the source in its order, then those that are named and missing. */
  async *items(itemOf: (path: string, annotation: ImageEntry | undefined) => Item): AsyncIterable<Item> {
    for (const path of this.index.paths) yield itemOf(path, this.byPath.get(path)?.annotation);
    for (const [path, { present, annotation: said }] of this.byPath)
      if (!present) yield { ...itemOf(path, said), present: false };
  }
}
