import { baseName, readText, type FileTree } from "../model/file-tree";

/** The `classes.txt` of a source; undefined where it has none. */
export function classListOf(paths: readonly string[]): string | undefined {
  return paths.find((path) => baseName(path).toLowerCase() === "classes.txt");
}

/**
 * Class names by number, one a line, as `classes.txt` gives them; a blank line keeps its number. Null where there is
 * no such file.
 */
export async function readClassList(files: FileTree, paths: readonly string[]): Promise<string[] | null> {
  const path = classListOf(paths);
  if (path === undefined) return null;
  const lines = (await readText(files, path)).split(/\r?\n/).map((line) => line.trim());
  return lines.filter((line, n) => line !== "" || n < lines.length - 1);
}
