import { baseName, extensionOf, withoutExtension } from "../model/file-tree";

/** Hands out file names that are unique in their folder by their stem, so that label files never collide. */
export class UniqueNames {
  private taken = new Set<string>();

  /** The base name of `path`, with `_2`, `_3`, … before its extension where the stem is taken in `folder` already. */
  claim(folder: string, path: string): string {
    const base = baseName(path);
    const stem = withoutExtension(base);
    const extension = extensionOf(base) === "" ? "" : base.slice(stem.length);
    for (let n = 1; ; n++) {
      const candidate = n === 1 ? stem : `${stem}_${n}`;
      const key = `${folder}/${candidate.toLowerCase()}`;
      if (this.taken.has(key)) continue;
      this.taken.add(key);
      return candidate + extension;
    }
  }
}
