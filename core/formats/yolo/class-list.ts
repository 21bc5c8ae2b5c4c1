/** Class names and split folders as data.yaml, classes.txt, obj.names or *.names give them. */
import { parse } from "yaml";
import { z } from "zod";
import { baseName, extensionOf, folderOf, readText, type FileEntry, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import type { Split } from "../../model/item";
import type { KeypointShape } from "./lines";

const folders = z
  .union([z.string(), z.array(z.string())])
  .optional()
  .catch(undefined);
const descriptionSchema = z.object({
  names: z.union([z.array(z.coerce.string()), z.record(z.string(), z.coerce.string())]).optional(),
  nc: z.number().int().optional().catch(undefined),
  train: folders,
  val: folders,
  valid: folders,
  test: folders,
  kpt_shape: z
    .tuple([z.number().int().positive().max(1000), z.union([z.literal(2), z.literal(3)])])
    .optional()
    .catch(undefined),
  flip_idx: z.array(z.number().int().nonnegative().max(1000)).max(1000).optional().catch(undefined),
  kpt_names: z.record(z.string(), z.array(z.coerce.string())).optional().catch(undefined),
});

export type Description = {
  /** Class names by number, in the order of the numbers. */
  names: ReadonlyMap<number, string> | null;
  keypoints: KeypointShape | null;
  keypointNames: Record<string, string[]> | null;
  /** For each keypoint the one that takes its place in a mirror. */
  mirrored: number[] | null;
  splitFolders: { split: Split; folder: string }[];
  listings: { split: Split; path: string }[];
};

/** Numbers that a map leaves out are filled in up to here; a list that says more was never counted by anybody. */
const mostFilledIn = 100_000;

function namesOf(names: string[] | Record<string, string>): Map<number, string> {
  const numbered: [number, string][] = Array.isArray(names)
    ? names.map((name, number) => [number, name])
    : Object.entries(names).flatMap(([number, name]): [number, string][] =>
        /^\d{1,15}$/.test(number) ? [[Number(number), name]] : [],
      );
  const given = new Map(numbered.sort(([a], [b]) => a - b));
  const highest = numbered.at(-1)?.[0] ?? -1;
  if (highest >= mostFilledIn) return given;
  return new Map(Array.from({ length: highest + 1 }, (_, number) => [number, given.get(number) ?? `class_${number}`]));
}

/** True for text files that hold class names or listings rather than labels. */
export function isClassList(path: string): boolean {
  const base = baseName(path).toLowerCase();
  return (
    base === "classes.txt" || (base === "labels.txt" && !path.includes("/labels/")) || extensionOf(path) === "names"
  );
}

export function isDataYaml(path: string): boolean {
  return ["yaml", "yml"].includes(extensionOf(path));
}

/** Reads the class list and the split folders of a source; `names` is null where there is no list. */
export async function readDescription(
  files: FileTree,
  entries: readonly FileEntry[],
  report: Findings,
): Promise<Description> {
  const description: Description = {
    names: null,
    keypoints: null,
    keypointNames: null,
    mirrored: null,
    splitFolders: [],
    listings: [],
  };
  const text = (path: string) => readText(files, path);
  for (const { path } of entries.filter((entry) => isDataYaml(entry.path))) {
    let parsed: z.infer<typeof descriptionSchema>;
    try {
      parsed = descriptionSchema.parse(parse(await text(path)));
    } catch {
      report.add("annotation-unreadable", path, "it is not the YAML of a data set");
      continue;
    }
    if (parsed.names && !description.names) description.names = namesOf(parsed.names);
    if (parsed.kpt_shape) description.keypoints = { points: parsed.kpt_shape[0], dimensions: parsed.kpt_shape[1] };
    if (parsed.flip_idx) description.mirrored = parsed.flip_idx;
    if (parsed.kpt_names) description.keypointNames = parsed.kpt_names;
    for (const [split, value] of [
      ["train", parsed.train],
      ["val", parsed.val ?? parsed.valid],
      ["test", parsed.test],
    ] as const) {
      for (const entry of value === undefined ? [] : [value].flat()) {
        const clean = entry.replaceAll("\\", "/").replace(/^(\.{0,2}\/)+/, "");
        if (extensionOf(clean) === "txt") description.listings.push({ split, path: clean });
        else description.splitFolders.push({ split, folder: clean.replace(/\/$/, "") });
      }
    }
  }
  if (!description.names) {
    const list = entries
      .filter((entry) => isClassList(entry.path))
      .sort((a, b) => folderOf(a.path).length - folderOf(b.path).length)[0];
    if (list)
      description.names = namesOf(
        (await text(list.path))
          .split(/\r?\n/)
          .map((line) => line.trim())
          .filter((line) => line !== ""),
      );
  }
  return description;
}
