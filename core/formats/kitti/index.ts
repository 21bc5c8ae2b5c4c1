/** kitti: one .txt an image, fifteen columns an object, sixteen with a score. */
import {
  baseName,
  extensionOf,
  folderOf,
  isImagePath,
  readText,
  withoutExtension,
  type FileTree,
} from "../../model/file-tree";
import { shapeBounds } from "../../geometry/shape";
import type { Findings } from "../../model/finding";
import { blankItem, splitNames, type ClassInfo, type Item, type LabeledObject } from "../../model/item";
import { splitFromFileName, splitFromName } from "../../model/split-name";
import { keepAttributes } from "../fit";
import type { Format, Outgoing, PackageSink, Reading } from "../format";
import { UniqueNames } from "../unique-names";

/** What the columns past the box hold in 3D, and the number that says it is not known. */
const spatial = [
  ["height", -1],
  ["width", -1],
  ["length", -1],
  ["x", -1000],
  ["y", -1000],
  ["z", -1000],
  ["rotation_y", -10],
] as const;
const attributeNames = ["alpha", ...spatial.map(([name]) => name)];

/** One line as an object, `"ignored"` for a DontCare region; null where it is no line of this format. */
export function parseLine(line: string): LabeledObject | "ignored" | null {
  const words = line.trim().split(/\s+/);
  if (words.length !== 15 && words.length !== 16) return null;
  const [type, ...rest] = words as [string, ...string[]];
  const numbers = rest.map(Number);
  if (numbers.some((value) => Number.isNaN(value)) && !rest.every((word) => /^[-+]?(\d|\.|nan|inf)/i.test(word)))
    return null;
  if (type === "DontCare") return "ignored";
  const [truncated, occluded, alpha, x1, y1, x2, y2] = numbers as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const attributes: Record<string, number> = {};
  // 0 stands where nothing is known too; a whole row of zeros says nothing.
  const known = numbers.slice(7, 14).some((value) => value !== 0) || alpha !== 0;
  if (known && alpha !== -10) attributes["alpha"] = alpha;
  if (known)
    spatial.forEach(([name, unknown], n) =>
      numbers[7 + n] === unknown ? undefined : (attributes[name] = numbers[7 + n] as number),
    );
  return {
    class: type,
    shape: { kind: "box", x: x1, y: y1, width: x2 - x1, height: y2 - y1 },
    ...(truncated > 0 ? { truncated: true } : {}),
    ...(occluded > 0 ? { occluded: true } : {}),
    ...(numbers.length === 15 ? { confidence: numbers[14] as number } : {}),
    ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
  };
}

function formatLine(object: LabeledObject): string | null {
  const box = shapeBounds(object.shape);
  if (!box) return null;
  const number = (name: string, unknown: number) =>
    typeof object.attributes?.[name] === "number" ? object.attributes[name] : unknown;
  return [
    object.class,
    object.truncated ? 1 : 0,
    object.occluded ? 1 : 0,
    number("alpha", -10),
    ...[box.x, box.y, box.x + box.width, box.y + box.height].map((value) => Number(value.toFixed(6))),
    ...spatial.map(([name, unknown]) => number(name, unknown)),
    ...(object.confidence === undefined ? [] : [object.confidence]),
  ].join(" ");
}

/**
 * The label file of `training/image_2/a.png` is `training/label_2/a.txt`; `images` pairs with `labels`, or it lies
 * beside.
 */
function labelPathsFor(image: string): string[] {
  const stem = withoutExtension(image);
  const swapped = stem.replace(
    /(^|\/)(image_2|images)\/(?!.*\/(?:image_2|images)\/)/,
    (_, before: string, folder: string) => `${before}${folder === "images" ? "labels" : "label_2"}/`,
  );
  return [...new Set([`${swapped}.txt`, `${stem}.txt`])];
}

async function readKitti(files: FileTree, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const paths = entries.map((entry) => entry.path).filter(isImagePath);
  const sets = entries.map((entry) => entry.path).filter((path) => /(^|\/)ImageSets\/[^/]+\.txt$/i.test(path));
  const texts = new Set(
    entries
      .map((entry) => entry.path)
      .filter(
        (path) => extensionOf(path) === "txt" && !/^(readme|classes)/i.test(baseName(path)) && !sets.includes(path),
      ),
  );
  const splits = new Map<string, Item["split"]>();
  for (const path of sets) {
    const split = splitFromFileName(withoutExtension(baseName(path)));
    if (split)
      for (const line of (await readText(files, path)).split(/\r?\n/))
        if (line.trim() !== "") splits.set(line.trim(), split);
  }
  const labelOf = new Map(paths.map((path) => [path, labelPathsFor(path).find((candidate) => texts.has(candidate))]));
  const used = new Set(labelOf.values());
  for (const path of texts) if (!used.has(path)) report.add("image-missing", path, "no picture of that name");

  const parse = async (path: string, quiet: boolean): Promise<{ objects: LabeledObject[]; lines: number }> => {
    const objects: LabeledObject[] = [];
    let lines = 0;
    for (const line of (await readText(files, path)).split(/\r?\n/)) {
      if (line.trim() === "") continue;
      const parsed = parseLine(line);
      if (parsed === "ignored") continue;
      lines++;
      if (parsed) objects.push(parsed);
      else if (!quiet) report.add("shape-degenerate", path, line.slice(0, 60));
    }
    return { objects, lines };
  };
  const classes = new Set<string>();
  for (const path of used)
    if (path !== undefined) for (const { class: name } of (await parse(path, true)).objects) classes.add(name);

  async function* items(): AsyncIterable<Item> {
    for (const path of paths) {
      // Where lists say the splits, the published folder `training` is none.
      const folders = folderOf(path)
        .split("/")
        .filter((part) => sets.length === 0 || part !== "training");
      const fromFolder =
        folders
          .reverse()
          .map(splitFromName)
          .find((split) => split !== null) ?? null;
      const item: Item = { ...blankItem(path), split: splits.get(withoutExtension(baseName(path))) ?? fromFolder };
      const label = labelOf.get(path);
      if (label !== undefined) {
        const { objects, lines } = await parse(label, false);
        item.objects = objects;
        item.state = lines > 0 ? "labeled" : "empty";
      }
      yield item;
    }
  }
  return { classes: [...classes].map((name) => ({ name })), items: items() };
}

async function writeKitti(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const sets = new Map<string, string[]>();
  for await (const item of outgoing.items) {
    const fileName = names.claim("", item.path);
    const stem = withoutExtension(fileName);
    await sink.picture(`training/image_2/${fileName}`, item);
    if (item.split) {
      const set = sets.get(item.split) ?? [];
      sets.set(item.split, set);
      set.push(stem);
    }
    if (item.state === "unlabeled") continue;
    await sink.write(
      `training/label_2/${stem}.txt`,
      item.objects
        .flatMap((object) => formatLine(object) ?? [])
        .map((line) => `${line}\n`)
        .join(""),
    );
  }
  // A list is written even where nothing has a split: without one, the folder `training` would say one.
  for (const split of splitNames)
    if (sets.has(split) || (split === "train" && sets.size === 0))
      await sink.write(`ImageSets/${split}.txt`, (sets.get(split) ?? []).map((stem) => `${stem}\n`).join(""));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "training/image_2 and training/label_2 share base names; ImageSets lists the splits. Edges are in pixels from 0. −1, −10 and −1000 stand where 3D is not known.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

/** Types without blanks; two classes never share one. */
function typeNames(classes: readonly ClassInfo[]): ClassInfo[] {
  const asTheyAre = (name: string) => name !== "" && !/\s/.test(name) && name !== "DontCare";
  const types = new Set(classes.map((info) => info.name).filter(asTheyAre));
  return classes.map((info) => {
    if (asTheyAre(info.name)) return info;
    const plain = info.name.trim().replace(/\s+/g, "_") || "_";
    let name = plain;
    for (let n = 2; types.has(name) || name === "DontCare"; n++) name = `${plain}_${n}`;
    types.add(name);
    return { ...info, name };
  });
}

export const kitti: Format = {
  name: "kitti",
  title: "KITTI text",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: ["truncated", "occluded", "confidence"],
    attributes: attributeNames,
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 1e-6, relative: 0 },
  training: "Point a trainer at the folder training; ImageSets lists the names of each split.",
  loosePictures: true,
  options: [],
  classNames: typeNames,
  // Numbers alone can be written, and not those that stand for nothing known.
  refit: (item, _options, report) =>
    keepAttributes(
      item,
      (name, value) =>
        typeof value === "number" && value !== (name === "alpha" ? -10 : spatial.find(([key]) => key === name)?.[1]),
      report,
    ),
  async recognise(entries, peek) {
    const texts = new Set(entries.filter((entry) => extensionOf(entry.path) === "txt").map((entry) => entry.path));
    let found = 0;
    for (const { path } of texts.size === 0 ? [] : entries) {
      const label = isImagePath(path) ? labelPathsFor(path).find((candidate) => texts.has(candidate)) : undefined;
      if (label === undefined) continue;
      const lines = (await peek(label))
        .split(/\r?\n/)
        .filter((line) => line.trim() !== "")
        .slice(0, 5);
      if (lines.some((line) => parseLine(line) !== null && Number.isNaN(Number(line.trim().split(/\s+/)[0]))))
        return { score: 0.95, reason: `${label} has lines of a type and fourteen numbers` };
      if (++found >= 20) break;
    }
    const layout = entries.some(({ path }) => /(^|\/)label_2\//.test(path));
    return {
      score: layout ? 0.5 : 0,
      reason: layout ? "there is a folder label_2" : "no text file has lines of a type and fourteen numbers",
    };
  },
  read: (files, _options, report) => readKitti(files, report),
  write: writeKitti,
};
