import { baseName, extensionOf, folderOf, withoutExtension } from "../model/file-tree";
import { shortenedName } from "../model/short-name";

/** Hands out file names that are unique in their folder by their stem, so that label files never collide. */
export class UniqueNames {
  private taken = new Set<string>();

  /**
   * The base name of `path`, with `_2`, `_3`, … before its extension where the stem is taken in `folder` already. Never
   * longer than a disk takes.
   */
  claim(folder: string, path: string): string {
    const base = shortenedName(baseName(path));
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

  /** As claim, with the folders of `path` before the name. */
  claimPath(folder: string, path: string): string {
    const within = folderOf(path)
      .split("/")
      .filter((part) => part !== "")
      .map(shortenedName)
      .join("/");
    const name = this.claim(within === "" ? folder : `${folder}/${within}`, path);
    return within === "" ? name : `${within}/${name}`;
  }
}
