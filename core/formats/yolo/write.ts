import { stringify } from "yaml";
import { withoutExtension } from "../../model/file-tree";
import { splitNames, type Split } from "../../model/item";
import { mirrorOrder } from "../../model/keypoint-pairs";
import type { Outgoing, PackageSink } from "../format";
import { UniqueNames } from "../unique-names";
import { LabelText } from "./label-text";
import { mostKeypoints, writeLine, type Dialect } from "./lines";

/** Writes `images/<split>`, `labels/<split>` and a data.yaml that works from wherever it is unpacked. */
export async function writeYolo(outgoing: Outgoing, sink: PackageSink, dialect: Dialect): Promise<void> {
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, number) => [info.name, number]));
  const points = mostKeypoints(outgoing.classes);
  const used = new Set<Split>();
  const text = new LabelText();
  for await (const item of outgoing.items) {
    const split = item.split ?? "train";
    used.add(split);
    const fileName = names.claim(split, item.path);
    await sink.picture(`images/${split}/${fileName}`, item);
    // An unlabeled image gets no label file, an empty one an empty file.
    if (item.state === "unlabeled") continue;
    for (const object of item.objects) {
      const number = numbers.get(object.class);
      if (number !== undefined) writeLine(text, object, number, dialect, item.size, points);
    }
    await sink.write(`labels/${split}/${withoutExtension(fileName)}.txt`, text.drain());
  }
  const description: Record<string, unknown> = {};
  for (const split of splitNames) if (used.has(split)) description[split] = `images/${split}`;
  description["nc"] = outgoing.classes.length;
  description["names"] = outgoing.classes.map((info) => info.name);
  if (dialect === "yolo-pose") Object.assign(description, keypointKeys(outgoing, points));
  await sink.write("data.yaml", stringify(description));
  await sink.write("README.txt", readme(outgoing, dialect));
}

function keypointKeys(outgoing: Outgoing, points: number): Record<string, unknown> {
  const widest = outgoing.classes.find((info) => info.keypoints?.length === points) ?? {};
  const named = outgoing.classes.flatMap((info, number) =>
    info.keypoints ? [[String(number), info.keypoints] as const] : [],
  );
  return { kpt_shape: [points, 3], flip_idx: mirrorOrder(widest), kpt_names: Object.fromEntries(named) };
}

const lineSays: Record<Dialect, string> = {
  yolo: "class cx cy width height",
  "yolo-seg": "class x1 y1 x2 y2 …, the corners of an outline (a box is written as its four corners)",
  "yolo-pose": "class cx cy width height, then x y v for each keypoint (v: 0 not labeled, 1 hidden, 2 visible)",
  "yolo-obb": "class x1 y1 x2 y2 x3 y3 x4 y4, the corners of a rotated box",
};

function readme(outgoing: Outgoing, dialect: Dialect): string {
  return [
    outgoing.title,
    "",
    `One .txt a picture in labels/, one line an object: ${lineSays[dialect]}. The numbers are shares of the picture's size.`,
    "Classes count from 0 in the order of `names` in data.yaml. A picture with an empty .txt holds nothing; one with no .txt is unlabeled.",
    "",
    "Point a trainer at data.yaml. Its paths are relative to its own folder, so the package works wherever it is unpacked.",
    ...outgoing.notes,
    "",
  ].join("\n");
}
