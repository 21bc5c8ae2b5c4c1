/** `<class>/<image>` or `<split>/<class>/<image>`. */
import { baseName, folderOf, isImagePath, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type Item } from "../../model/item";
import { splitFromName } from "../../model/split-name";
import { csvRows } from "../csv/table";
import type { Format, Options, Reading } from "../format";
import { folderList, isUnlabeledFolder, oneClass, writeClassFolders } from "./write";

/** Folders that other formats keep pictures in; none of them names a class. */
const layoutFolder =
  /^(images?|imgs?|jpegimages|pictures|photos|image_2|masks?|labels?|label_2|annotations?|segmentation(class|object)?)$/i;

/** Folders every picture lies under say nothing about its class and are skipped. */
function sharedFolders(paths: readonly string[]): number {
  const first = paths[0]?.split("/").slice(0, -1) ?? [];
  let depth = 0;
  while (
    depth < first.length &&
    splitFromName(first[depth] ?? "") === null &&
    paths.every((path) => path.split("/")[depth] === first[depth] && path.split("/").length > depth + 1)
  )
    depth++;
  return depth;
}

/** The class folders of a picture, the outermost first, and its split. */
function foldersOf(path: string, skip: number): { levels: string[]; split: Item["split"] } {
  const folders = folderOf(path) === "" ? [] : folderOf(path).split("/");
  const rest = folders.slice(Math.min(skip, folders.length));
  const split = rest[0] === undefined ? null : splitFromName(rest[0]);
  const levels = split ? rest.slice(1) : rest;
  return { levels: levels[0] === undefined || isUnlabeledFolder(levels[0]) ? [] : levels, split };
}

/** Which of nested folders is the class: the outermost, the innermost, or all of them as one name. */
const nameOf: Record<string, (levels: readonly string[]) => string | null> = {
  top: (levels) => levels[0] ?? null,
  last: (levels) => levels.at(-1) ?? null,
  path: (levels) => (levels.length > 0 ? levels.join("/") : null),
};

/** A tree whose only class is a folder of its own keeps it: nothing is skipped that would leave no class. */
function skipDepth(paths: readonly string[]): number {
  const shared = sharedFolders(paths);
  const named = paths.some((path) => foldersOf(path, shared).levels.length > 0);
  return named ? shared : Math.max(0, shared - 1);
}

/** The folder that could name a picture's class, by path; pictures whose folder cannot are left out. */
export function folderClasses(paths: readonly string[]): Map<string, string> {
  const pictures = paths.filter(isImagePath);
  const skip = skipDepth(pictures);
  return new Map(
    pictures.flatMap((path) => {
      const [name] = foldersOf(path, skip).levels;
      return name === undefined ? [] : [[path, name] as const];
    }),
  );
}

/** What folders stand for that could not be called as their class is, by folder. */
async function listedNames(files: FileTree, paths: readonly string[]): Promise<Map<string, string>> {
  const names = new Map<string, string>();
  const list = paths.find((path) => baseName(path) === folderList);
  if (list === undefined) return names;
  for await (const [folder, name] of csvRows(files, list)) if (folder && name) names.set(folder, name);
  return names;
}

async function readClassFolders(files: FileTree, options: Options, report: Findings): Promise<Reading> {
  const all = (await files.entries()).map((entry) => entry.path);
  const paths = all.filter(isImagePath);
  const skip = skipDepth(paths);
  const listed = await listedNames(files, all);
  const choose = nameOf[options["levels"] ?? "top"] ?? nameOf["top"];
  const classOf = (levels: readonly string[]) => {
    const name = choose?.(levels) ?? null;
    return name === null ? null : (listed.get(name) ?? name);
  };
  const classes = new Set<string>();
  for (const path of paths) {
    const { levels } = foldersOf(path, skip);
    const name = classOf(levels);
    if (name !== null) classes.add(name);
    if (levels.length > 1 && options["levels"] === undefined)
      report.add(
        "format-ambiguous",
        path,
        `"${levels.join("/")}" holds levels; the top one is taken for the class, levels=last or levels=path takes the others`,
      );
  }
  async function* items(): AsyncIterable<Item> {
    for (const path of paths) {
      const { levels, split } = foldersOf(path, skip);
      const name = classOf(levels);
      const item = blankItem(path);
      item.split = split;
      if (name !== null) {
        item.classes = [name];
        item.state = "labeled";
      }
      yield item;
    }
  }
  return { classes: [...classes].sort().map((name) => ({ name })), items: items() };
}

export const classFolders: Format = {
  name: "class-folders",
  title: "Folders named by class",
  carries: {
    shapes: [],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "many",
    noSplit: true,
    empty: false,
  },
  rounding: { pixels: 0, relative: 0 },
  training: "Point a trainer at the folder train, and its evaluation at val: the folders within are the classes.",
  loosePictures: true,
  options: [
    {
      name: "levels",
      values: ["top", "last", "path"],
      default: "top",
      describes: "which of nested folders is the class: the outermost, the innermost, or all of them as one name",
      example: "levels=last",
      when: "reading",
    },
    {
      name: "multi",
      values: ["each", "first"],
      default: "each",
      describes: "whether an image with several classes is written into each of their folders, or into the first",
      example: "multi=first",
      when: "writing",
    },
  ],
  refit: oneClass,
  write: writeClassFolders,
  async recognise(entries) {
    const paths = entries.map((entry) => entry.path).filter(isImagePath);
    if (paths.length === 0) return { score: 0, reason: "no picture" };
    const skip = skipDepth(paths);
    const classes = new Set(
      paths
        .map((path) => foldersOf(path, skip).levels[0])
        .filter((name) => name !== undefined && !layoutFolder.test(name)),
    );
    const others = entries.some(
      ({ path }) => /\.(json|xml|csv|tfrecord|parquet|jsonl|lst)$/i.test(path) && baseName(path) !== folderList,
    );
    if (classes.size === 0) return { score: 0, reason: "no folder that could name a class" };
    return {
      score: classes.size === 1 ? (others ? 0.2 : 0.35) : others ? 0.5 : 0.6,
      reason: `pictures lie in ${classes.size} folders that could name classes`,
    };
  },
  read: readClassFolders,
};
