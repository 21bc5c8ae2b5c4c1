/** Class names and split folders as data.yaml, classes.txt, obj.names or *.names give them. */
import { parse } from "yaml";
import { z } from "zod";
import { baseName, extensionOf, folderOf, type FileEntry, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import type { Split } from "../../model/item";

const folders = z.union([z.string(), z.array(z.string())]).optional().catch(undefined);
const descriptionSchema = z.object({
  names: z.union([z.array(z.coerce.string()), z.record(z.string(), z.coerce.string())]).optional(),
  nc: z.number().int().optional().catch(undefined),
  train: folders,
  val: folders,
  valid: folders,
  test: folders,
});

export type Description = { names: string[] | null; splitFolders: { split: Split; folder: string }[]; listings: { split: Split; path: string }[] };

function namesOf(names: string[] | Record<string, string>): string[] {
  if (Array.isArray(names)) return names;
  const list: string[] = [];
  for (const [number, name] of Object.entries(names)) if (/^\d+$/.test(number)) list[Number(number)] = name;
  return Array.from(list, (name, position) => name ?? `class_${position}`);
}

/** True for text files that hold class names or listings rather than labels. */
export function isClassList(path: string): boolean {
  const base = baseName(path).toLowerCase();
  return base === "classes.txt" || base === "labels.txt" && !path.includes("/labels/") || extensionOf(path) === "names";
}

export function isDataYaml(path: string): boolean {
  return ["yaml", "yml"].includes(extensionOf(path));
}

/** Reads the class list and the split folders of a source; `names` is null where there is no list. */
export async function readDescription(files: FileTree, entries: readonly FileEntry[], report: Findings): Promise<Description> {
  const description: Description = { names: null, splitFolders: [], listings: [] };
  const text = async (path: string) => new TextDecoder().decode(await files.read(path)).replace(/^\uFEFF/, "");
  for (const { path } of entries.filter((entry) => isDataYaml(entry.path))) {
    let parsed: z.infer<typeof descriptionSchema>;
    try {
      parsed = descriptionSchema.parse(parse(await text(path)));
    } catch {
      report.add("annotation-unreadable", path, "it is not the YAML of a data set");
      continue;
    }
    if (parsed.names && !description.names) description.names = namesOf(parsed.names);
    for (const [split, value] of [["train", parsed.train], ["val", parsed.val ?? parsed.valid], ["test", parsed.test]] as const) {
      for (const entry of value === undefined ? [] : [value].flat()) {
        const clean = entry.replaceAll("\\", "/").replace(/^(\.{0,2}\/)+/, "");
        if (extensionOf(clean) === "txt") description.listings.push({ split, path: clean });
        else description.splitFolders.push({ split, folder: clean.replace(/\/$/, "") });
      }
    }
  }
  if (!description.names) {
    const list = entries.filter((entry) => isClassList(entry.path)).sort((a, b) => folderOf(a.path).length - folderOf(b.path).length)[0];
    if (list) description.names = (await text(list.path)).split(/\r?\n/).map((line) => line.trim()).filter((line) => line !== "");
  }
  return description;
}
