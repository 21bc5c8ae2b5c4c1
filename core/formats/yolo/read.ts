/**
 * One .txt an image, numbers relative to the image's size: boxes and segments. The traps are listed in
 * docs/formats.md.
 */
import {
  extensionOf,
  baseName,
  isImagePath,
  isNoise,
  readText,
  textOf,
  withoutExtension,
  type FileTree,
} from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type Item, type LabeledObject, type Split } from "../../model/item";
import { pairsOfOrder } from "../../model/keypoint-pairs";
import { splitFromFileName, splitFromPath } from "../../model/split-name";
import type { Reading } from "../format";
import { ImageIndex } from "../image-index";
import { isClassList, readDescription, type Description } from "./class-list";
import { guessKeypointShape, numbersOf, parseLine, type Dialect, type KeypointShape } from "./lines";

/** The label file of an image: `…/labels/…/a.txt` for `…/images/…/a.jpg` (the last `images`), else beside it. */
export function labelPathsFor(image: string): string[] {
  const parts = withoutExtension(image).split("/");
  const last = parts.lastIndexOf("images");
  const beside = `${parts.join("/")}.txt`;
  if (last < 0) return [beside];
  parts[last] = "labels";
  return [`${parts.join("/")}.txt`, beside];
}

/** Reads images, their label files and the class list. Shapes stay relative until settling knows the size. */
export async function readYolo(files: FileTree, dialect: Dialect, report: Findings): Promise<Reading> {
  const entries = await files.entries();
  const index = new ImageIndex(entries);
  const description = await readDescription(files, entries, report);
  const listings = new Set(description.listings.map(({ path }) => baseName(path)));
  const labelFiles = new Set(
    entries
      .map((entry) => entry.path)
      .filter(
        (path) =>
          extensionOf(path) === "txt" &&
          !isClassList(path) &&
          !listings.has(baseName(path)) &&
          !/^readme/i.test(baseName(path)),
      ),
  );

  const labelOf = new Map<string, string>();
  for (const image of index.paths) {
    const path = labelPathsFor(image).find((candidate) => labelFiles.has(candidate));
    if (!path) continue;
    labelOf.set(image, path);
  }
  const used = new Set(labelOf.values());
  const found: Description["listings"] = [];
  for (const path of labelFiles) {
    if (used.has(path)) continue;
    const split = splitFromFileName(baseName(path));
    if (split && (await isListing(files, path))) found.push({ split, path });
    else report.add("image-missing", path, "no picture of that name");
  }
  const listed = await listedSplits(
    files,
    entries.map((entry) => entry.path),
    [...description.listings, ...found],
    index,
  );

  // Without a class list the names depend on the highest number used, so labels are scanned once before.
  const names = description.names ?? (await madeUpNames(files, labelOf.values()));
  const keypoints =
    dialect === "yolo-pose" ? (description.keypoints ?? (await guessedKeypoints(files, labelOf.values()))) : null;
  if (!description.names && names.size > 0) report.add("classes-missing", "", `class_0 … class_${names.size - 1}`);

  const splitOf = (path: string): Split | null => {
    const fromListing = listed.get(path);
    if (fromListing) return fromListing;
    const fits = description.splitFolders.filter(
      ({ folder }) => folder !== "" && (path.startsWith(`${folder}/`) || path.includes(`/${folder}/`)),
    );
    return fits.length === 1 && fits[0] ? fits[0].split : splitFromPath(path);
  };

  async function* items(): AsyncIterable<Item> {
    for (const path of index.paths) {
      const item = blankItem(path);
      item.split = splitOf(path);
      item.units = "relative";
      if (dialect === "yolo-obb") item.quadrilaterals = "rotated-box";
      const labels = labelOf.get(path);
      if (labels) {
        const read = await readLabels(labels);
        if (read) {
          item.objects = read.objects;
          item.state = read.lines > 0 ? "labeled" : "empty";
        }
      }
      yield item;
    }
  }

  /** What a label file says; null where it is no text. */
  async function readLabels(path: string): Promise<{ objects: LabeledObject[]; lines: number } | null> {
    const text = await readText(files, path);
    if (isNoise(text)) {
      report.add("annotation-unreadable", path, "it is no text");
      return null;
    }
    const objects: LabeledObject[] = [];
    let lines = 0;
    for (const line of text.split(/\r?\n/)) {
      if (line.trim() === "") continue;
      lines++;
      const parsed = parseLine(line, dialect, keypoints);
      if (!parsed) {
        report.add("shape-degenerate", path, line.slice(0, 60));
        continue;
      }
      const name = names.get(parsed.classNumber);
      if (name === undefined) {
        report.add("class-unknown", path, `class ${parsed.classNumber} of ${names.size}`);
        continue;
      }
      objects.push({
        class: name,
        shape: parsed.shape,
        ...(parsed.confidence !== undefined ? { confidence: parsed.confidence } : {}),
      });
    }
    return { objects, lines };
  }
  const pointsOf = (number: number) => {
    const named =
      description.keypointNames?.[number] ?? Array.from({ length: keypoints?.points ?? 0 }, (_, n) => `point_${n + 1}`);
    const pairs = description.mirrored ? pairsOfOrder(description.mirrored, named.length) : [];
    return { keypoints: named, ...(pairs.length > 0 ? { pairs } : {}) };
  };
  return {
    classes: Array.from(names, ([number, name]) => (keypoints ? { name, ...pointsOf(number) } : { name })),
    items: items(),
  };
}

/** The lines of a label file; none where it is no text. */
async function readLines(files: FileTree, path: string): Promise<string[]> {
  const text = await readText(files, path);
  return isNoise(text) ? [] : text.split(/\r?\n/);
}

/** Without `kpt_shape` the columns of the first label files tell. */
async function guessedKeypoints(files: FileTree, labels: Iterable<string>): Promise<KeypointShape | null> {
  const lines: number[][] = [];
  for (const path of labels) {
    lines.push(
      ...(await readLines(files, path))
        .flatMap((line) => [numbersOf(line) ?? []])
        .filter((numbers) => numbers.length > 5),
    );
    if (lines.length >= 100) break;
  }
  return guessKeypointShape(lines);
}

async function madeUpNames(files: FileTree, labels: Iterable<string>): Promise<Map<number, string>> {
  let highest = -1;
  for (const path of labels) {
    for (const line of await readLines(files, path)) {
      const [number] = numbersOf(line) ?? [];
      if (number !== undefined && number < 100_000) highest = Math.max(highest, number);
    }
  }
  return new Map(Array.from({ length: highest + 1 }, (_, number) => [number, `class_${number}`]));
}

/** True for a text file whose first line names a picture: a listing of a split that no data.yaml speaks of. */
async function isListing(files: FileTree, path: string): Promise<boolean> {
  const start = textOf(await files.readRange(path, 0, 4096));
  return isImagePath(start.trimStart().split(/\r?\n/, 1)[0]?.trim() ?? "");
}

async function listedSplits(
  files: FileTree,
  paths: string[],
  listings: { split: Split; path: string }[],
  index: ImageIndex,
): Promise<Map<string, Split>> {
  const splits = new Map<string, Split>();
  for (const { split, path } of listings) {
    const actual = paths.find((candidate) => candidate === path || candidate.endsWith(`/${path}`));
    if (!actual) continue;
    for (const line of (await readText(files, actual)).split(/\r?\n/)) {
      const match = line.trim() === "" ? null : index.find(line.trim(), actual);
      if (match && "path" in match) splits.set(match.path, split);
    }
  }
  return splits;
}
