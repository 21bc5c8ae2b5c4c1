import { stringify } from "yaml";
import { shapeBounds } from "../../geometry/shape";
import { withoutExtension, type FileSink } from "../../model/file-tree";
import { splitNames, type LabeledObject, type Size, type Split } from "../../model/item";
import type { Options, Outgoing, Totals } from "../format";
import { UniqueNames } from "../unique-names";

/** `class cx cy w h` with the numbers as shares of the image's size, ten decimals. */
export function boxLine(object: LabeledObject, classNumber: number, size: Size): string | null {
  const box = shapeBounds(object.shape);
  if (!box) return null;
  const shares = [(box.x + box.width / 2) / size.width, (box.y + box.height / 2) / size.height, box.width / size.width, box.height / size.height];
  return [classNumber, ...shares.map((share) => share.toFixed(10))].join(" ");
}

/** Writes `images/<split>`, `labels/<split>` and a data.yaml that works from wherever it is unpacked. */
export async function writeYolo(outgoing: Outgoing, sink: FileSink, _options: Options): Promise<Totals> {
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, number) => [info.name, number]));
  const used = new Set<Split>();
  const totals: Totals = { images: 0, objects: 0 };
  for await (const item of outgoing.items) {
    const split = item.split ?? "train";
    used.add(split);
    const fileName = names.claim(split, item.path);
    await sink.write(`images/${split}/${fileName}`, await item.open());
    totals.images++;
    // An unlabeled image gets no label file, an empty one an empty file.
    if (item.state === "unlabeled") continue;
    const lines = item.objects.flatMap((object) => {
      const number = numbers.get(object.class);
      const line = number === undefined ? null : boxLine(object, number, item.size);
      return line ? [line] : [];
    });
    totals.objects += lines.length;
    await sink.write(`labels/${split}/${withoutExtension(fileName)}.txt`, lines.map((line) => `${line}\n`).join(""));
  }
  const description: Record<string, unknown> = {};
  for (const split of splitNames) if (used.has(split)) description[split] = `images/${split}`;
  description["nc"] = outgoing.classes.length;
  description["names"] = outgoing.classes.map((info) => info.name);
  await sink.write("data.yaml", stringify(description));
  await sink.write("README.txt", readme(outgoing));
  return totals;
}

function readme(outgoing: Outgoing): string {
  return [
    outgoing.title,
    "",
    "One .txt a picture in labels/, one line an object: class cx cy width height, the numbers as shares of the picture's size.",
    "Classes count from 0 in the order of `names` in data.yaml. A picture with an empty .txt holds nothing; one with no .txt is unlabeled.",
    "",
    "Point a trainer at data.yaml. Its paths are relative to its own folder, so the package works wherever it is unpacked.",
    ...outgoing.notes,
    "",
  ].join("\n");
}
