/** Four dialects of one text file an image; they share folders and class list and differ in what a line says. */
import { extensionOf, isImagePath, isNoise, type FileEntry } from "../../model/file-tree";
import { shapeBounds } from "../../geometry/shape";
import type { Carries, Format, SizedItem } from "../format";
import { boxCornersOption } from "../fit";
import { isClassList, isDataYaml } from "./class-list";
import { numbersOf, type Dialect } from "./lines";
import { labelPathsFor, readYolo } from "./read";
import { writeYolo } from "./write";

type Seen = { described: boolean; posed: boolean; files: number; lines: number[][]; unfit: number };

const seen = new WeakMap<readonly FileEntry[], Promise<Seen>>();

/** What the first label files hold; the four dialects ask in turn, and are told of one look. */
function look(entries: readonly FileEntry[], peek: (path: string) => Promise<string>): Promise<Seen> {
  const known = seen.get(entries) ?? lookOnce(entries, peek);
  seen.set(entries, known);
  return known;
}

async function lookOnce(entries: readonly FileEntry[], peek: (path: string) => Promise<string>): Promise<Seen> {
  const texts = new Set(
    entries.filter((entry) => extensionOf(entry.path) === "txt" && !isClassList(entry.path)).map((entry) => entry.path),
  );
  const yamls = entries.filter((entry) => isDataYaml(entry.path));
  const labels: string[] = [];
  for (const entry of texts.size === 0 ? [] : entries) {
    if (!isImagePath(entry.path)) continue;
    const path = labelPathsFor(entry.path).find((candidate) => texts.has(candidate));
    if (path) labels.push(path);
  }
  const found: Seen = {
    described: yamls.length > 0 || entries.some((entry) => isClassList(entry.path)),
    posed: false,
    files: labels.length,
    lines: [],
    unfit: 0,
  };
  for (const { path } of yamls.slice(0, 3)) if (/^\s*kpt_shape\s*:/m.test(await peek(path))) found.posed = true;
  for (const path of labels.slice(0, 30)) {
    const start = await peek(path);
    if (isNoise(start)) continue;
    for (const line of start.split(/\r?\n/).slice(0, 50)) {
      if (line.trim() === "") continue;
      const numbers = numbersOf(line);
      if (numbers && numbers.length >= 5 && numbers.every(Number.isFinite)) found.lines.push(numbers);
      else found.unfit++;
    }
  }
  return found;
}

/** Corners of a rotated box stay a parallelogram when they are divided by the image's size. */
function isParallelogram([, x1, y1, x2, y2, x3, y3, x4, y4]: readonly number[]): boolean {
  const [dx, dy] = [
    (x1 as number) + (x3 as number) - (x2 as number) - (x4 as number),
    (y1 as number) + (y3 as number) - (y2 as number) - (y4 as number),
  ];
  return Math.abs(dx) < 2e-3 && Math.abs(dy) < 2e-3;
}

/** How well the lines fit a dialect, 0…1. */
function fitness({ posed, lines }: Seen, dialect: Dialect): { score: number; reason: string } {
  const share = (test: (numbers: readonly number[]) => boolean) =>
    lines.length === 0 ? 0 : lines.filter(test).length / lines.length;
  const boxes = share((numbers) => numbers.length === 5 || numbers.length === 6);
  const outlines = share((numbers) => numbers.length >= 7 && numbers.length % 2 === 1);
  const nine = share((numbers) => numbers.length === 9);
  const slanted = nine === 1 && lines.every(isParallelogram);
  switch (dialect) {
    case "yolo":
      return posed
        ? { score: 0.2, reason: "lines of boxes with keypoints" }
        : { score: outlines > 0 ? 0.4 : boxes > 0 || lines.length === 0 ? 1 : 0.2, reason: "lines of boxes" };
    case "yolo-seg":
      return posed || outlines === 0
        ? { score: 0.2, reason: "no line is an outline" }
        : nine === 1
          ? { score: slanted ? 0.85 : 1, reason: "every line has four corners, as outlines can" }
          : { score: 1, reason: "lines of outlines" };
    case "yolo-obb":
      return !posed && nine === 1
        ? { score: slanted ? 1 : 0.85, reason: "every line has four corners" }
        : { score: 0, reason: "not every line has four corners" };
    case "yolo-pose": {
      const odd =
        lines.length > 0 &&
        lines.every((numbers) => numbers.length > 6 && numbers.length % 2 === 0 && (numbers.length - 5) % 3 === 0);
      return posed
        ? { score: 1, reason: "data.yaml gives a kpt_shape" }
        : { score: odd ? 0.9 : 0, reason: odd ? "every line is a box with points of three numbers" : "no kpt_shape" };
    }
  }
}

const titles: Record<Dialect, string> = {
  yolo: "YOLO text, boxes",
  "yolo-seg": "YOLO text, outlines",
  "yolo-pose": "YOLO text, keypoints",
  "yolo-obb": "YOLO text, rotated boxes",
};
const shapes: Record<Dialect, Carries["shapes"]> = {
  yolo: ["box"],
  // A trainer that reads outlines takes a line of a box for one, or drops all outlines of its picture.
  "yolo-seg": ["polygon"],
  "yolo-pose": ["box", "keypoints"],
  "yolo-obb": ["rotated-box", "box"],
};

/** Rotated boxes lie flat where they came as boxes; keypoints have a box of their own. */
function refit(item: SizedItem, dialect: Dialect): SizedItem {
  const objects = item.objects.map((object) => {
    const { shape } = object;
    if (dialect === "yolo-obb" && shape.kind === "box") {
      return {
        ...object,
        shape: {
          kind: "rotated-box" as const,
          cx: shape.x + shape.width / 2,
          cy: shape.y + shape.height / 2,
          width: shape.width,
          height: shape.height,
          angle: 0,
        },
      };
    }
    const bounds = shape.kind === "keypoints" ? shapeBounds(shape) : null;
    return bounds && shape.kind === "keypoints" ? { ...object, shape: { ...shape, box: bounds } } : object;
  });
  return { ...item, objects };
}

function yoloFormat(dialect: Dialect): Format {
  return {
    name: dialect,
    title: titles[dialect],
    carries: {
      shapes: shapes[dialect],
      parts: "joined",
      holes: "lost",
      flags: [],
      attributes: false,
      captions: "none",
      fields: false,
      imageClasses: "none",
      noSplit: false,
      empty: true,
    },
    rounding: { pixels: 0, relative: 1e-6 },
    training: "Point a trainer at data.yaml: it names the folders of the splits and the classes.",
    loosePictures: true,
    options: dialect === "yolo-seg" ? [boxCornersOption] : [],
    async recognise(entries, peek) {
      const seen = await look(entries, peek);
      if (seen.files === 0)
        return {
          score: seen.described && dialect === "yolo" ? 0.1 : 0,
          reason: "no text file shares a picture's name",
        };
      if (seen.unfit > seen.lines.length)
        return { score: 0, reason: "the text files beside the pictures hold other lines" };
      const { score, reason } = fitness(seen, dialect);
      return {
        score: score * (seen.described ? 0.9 : 0.7),
        reason: `${seen.files} text files share a picture's name; ${reason}`,
      };
    },
    read: (files, _options, report) => readYolo(files, dialect, report),
    write: (outgoing, sink) => writeYolo(outgoing, sink, dialect),
    refit: (item) => refit(item, dialect),
  };
}

export const yolo = yoloFormat("yolo");
export const yoloSeg = yoloFormat("yolo-seg");
export const yoloPose = yoloFormat("yolo-pose");
export const yoloObb = yoloFormat("yolo-obb");
