import type { Split } from "./item";

const meanings: Record<string, Split> = {
  train: "train",
  training: "train",
  val: "val",
  valid: "val",
  validation: "val",
  dev: "val",
  test: "test",
  testing: "test",
  eval: "test",
  evaluation: "test",
};

/**
 * The split a folder or set name means, whatever its case and with or without a year (`train2017`); null where it
 * means none.
 */
export function splitFromName(name: string): Split | null {
  return (
    meanings[
      name
        .trim()
        .toLowerCase()
        .replace(/[-_ ]?(19|20)\d\d$/, "")
    ] ?? null
  );
}

/** The split the folders of a path say, the deepest that says one. */
export function splitFromPath(path: string): Split | null {
  const parts = path.split("/").slice(0, -1).reverse();
  for (const part of parts) {
    const split = splitFromName(part);
    if (split) return split;
  }
  return null;
}

/** The split a file's own base name says in one of its words: `instances_val2017.json` says val. */
export function splitFromFileName(name: string): Split | null {
  for (const word of name.split(/[^A-Za-z]+/)) {
    const split = splitFromName(word);
    if (split) return split;
  }
  return null;
}
