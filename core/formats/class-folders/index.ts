/** `<class>/<image>` or `<split>/<class>/<image>`. */
import { folderOf, isImagePath } from "../../model/file-tree";
import { blankItem, type Item } from "../../model/item";
import { splitFromName } from "../../model/split-name";
import type { Format } from "../format";
import { folderNames, oneClass, writeClassFolders } from "./write";

/** Folders that other formats keep pictures in; none of them names a class. */
const layoutFolder =
  /^(images?|imgs?|jpegimages|pictures|photos|image_2|masks?|labels?|label_2|annotations?|segmentation(class|object)?)$/i;

const unlabeledFolders = new Set(["unlabeled", "_unlabeled"]);

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

function classOf(path: string, skip: number): { name: string | null; split: Item["split"] } {
  const folders = folderOf(path) === "" ? [] : folderOf(path).split("/");
  const rest = folders.slice(Math.min(skip, folders.length));
  const [head, next] = rest;
  const split = head === undefined ? null : splitFromName(head);
  const name = split ? next : head;
  return { name: name === undefined || unlabeledFolders.has(name.toLowerCase()) ? null : name, split };
}

/** A tree whose only class is a folder of its own keeps it: nothing is skipped that would leave no class. */
function skipDepth(paths: readonly string[]): number {
  const shared = sharedFolders(paths);
  const named = paths.some((path) => classOf(path, shared).name !== null);
  return named ? shared : Math.max(0, shared - 1);
}

/** The folder that could name a picture's class, by path; pictures whose folder cannot are left out. */
export function folderClasses(paths: readonly string[]): Map<string, string> {
  const pictures = paths.filter(isImagePath);
  const skip = skipDepth(pictures);
  const named = new Map<string, string>();
  for (const path of pictures) {
    const { name } = classOf(path, skip);
    if (name !== null) named.set(path, name);
  }
  return named;
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
  loosePictures: true,
  options: [
    {
      name: "multi",
      values: ["each", "first"],
      default: "each",
      describes: "whether an image with several classes is written into each of their folders, or into the first",
      example: "multi=first",
      when: "writing",
    },
  ],
  classNames: folderNames,
  refit: oneClass,
  write: writeClassFolders,
  async recognise(entries) {
    const paths = entries.map((entry) => entry.path).filter(isImagePath);
    if (paths.length === 0) return { score: 0, reason: "no picture" };
    const skip = skipDepth(paths);
    const classes = new Set(
      paths.map((path) => classOf(path, skip).name).filter((name) => name !== null && !layoutFolder.test(name)),
    );
    const others = entries.some((entry) => /\.(json|xml|csv|tfrecord|parquet|jsonl|lst)$/i.test(entry.path));
    if (classes.size === 0) return { score: 0, reason: "no folder that could name a class" };
    return {
      score: classes.size === 1 ? (others ? 0.2 : 0.35) : others ? 0.5 : 0.6,
      reason: `pictures lie in ${classes.size} folders that could name classes`,
    };
  },
  async read(files) {
    const paths = (await files.entries()).map((entry) => entry.path).filter(isImagePath);
    const skip = skipDepth(paths);
    const names = [
      ...new Set(paths.map((path) => classOf(path, skip).name).filter((name): name is string => name !== null)),
    ].sort();
    async function* items(): AsyncIterable<Item> {
      for (const path of paths) {
        const { name, split } = classOf(path, skip);
        const item = blankItem(path);
        item.split = split;
        if (name !== null) {
          item.classes = [name];
          item.state = "labeled";
        }
        yield item;
      }
    }
    return { classes: names.map((name) => ({ name })), items: items() };
  },
};
