/** Finds the image an annotation means, by identity and never by position. */
import { baseName, folderOf, isImagePath, type FileEntry } from "../model/file-tree";
import { splitFromPath, splitFromFileName } from "../model/split-name";

export type Match = { path: string } | { ambiguous: string[] } | null;

function normalise(path: string): string {
  return path
    .replaceAll("\\", "/")
    .replace(/^(\.?\/)+/, "")
    .normalize("NFC");
}

function unescaped(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}

/**
 * An index of the pictures of a source. A name is tried as an exact path, then without its leading
 * folders, then by base name where that is unique, then all of it again without regard to case.
 */
export class ImageIndex {
  readonly paths: string[];
  private readonly exact = new Map<string, string>();
  private readonly byBase = new Map<string, string | string[]>();
  private byLowerBase: Map<string, string | string[]> | null = null;

  constructor(entries: readonly FileEntry[]) {
    this.paths = entries.filter((entry) => isImagePath(entry.path)).map((entry) => entry.path);
    for (const path of this.paths) {
      const key = normalise(path);
      this.exact.set(key, path);
      push(this.byBase, baseName(key), path);
    }
  }

  /** Made when it is first needed: most sources never ask for it. */
  private lowerBases(): Map<string, string | string[]> {
    if (!this.byLowerBase) {
      this.byLowerBase = new Map();
      for (const path of this.paths) push(this.byLowerBase, baseName(normalise(path)).toLowerCase(), path);
    }
    return this.byLowerBase;
  }

  /** The picture `name` means, said by the annotation file at `saidBy`; several that fit equally are ambiguous. */
  find(name: string, saidBy: string): Match {
    const forms = [...new Set([normalise(name), normalise(unescaped(name))])];
    for (const form of forms) {
      const beside = this.exact.get(normalise(`${folderOf(saidBy)}/${form}`)) ?? this.exact.get(form);
      if (beside) return { path: beside };
    }
    for (const form of forms) {
      const candidates = [this.byBase.get(baseName(form)) ?? []].flat();
      const match = narrow(candidates, form, saidBy);
      if (match) return match;
    }
    for (const form of forms) {
      const match = narrow(
        [this.lowerBases().get(baseName(form).toLowerCase()) ?? []].flat(),
        form.toLowerCase(),
        saidBy,
      );
      if (match) return match;
    }
    return null;
  }
}

function push(map: Map<string, string | string[]>, key: string, value: string): void {
  const known = map.get(key);
  if (known === undefined) map.set(key, value);
  else if (typeof known === "string") map.set(key, [known, value]);
  else known.push(value);
}

/**
 * Of the pictures with the right base name, the ones that share most trailing folders, then the annotation's own split
 * or folder.
 */
function narrow(candidates: string[], form: string, saidBy: string): Match {
  if (candidates.length === 0) return null;
  if (candidates.length === 1) return { path: candidates[0] as string };
  const wanted = form.split("/").reverse();
  const shared = (path: string) => {
    const parts = normalise(path).split("/").reverse();
    let count = 0;
    while (count < wanted.length && parts[count]?.toLowerCase() === wanted[count]?.toLowerCase()) count++;
    return count;
  };
  const most = Math.max(...candidates.map(shared));
  let best = candidates.filter((path) => shared(path) === most);
  const split = splitFromFileName(baseName(saidBy)) ?? splitFromPath(saidBy);
  if (best.length > 1) {
    // An annotation file of no split means a picture of none before one of some split.
    const sameSplit = best.filter((path) => splitFromPath(path) === split);
    if (sameSplit.length > 0) best = sameSplit;
  }
  if (best.length > 1) {
    const folder = folderOf(saidBy);
    const within = best.filter((path) => folderOf(path) === folder || path.startsWith(`${folder}/`));
    if (within.length > 0) best = within;
  }
  return best.length === 1 ? { path: best[0] as string } : { ambiguous: best };
}
