/** masks: one indexed PNG an image, and a class table. */
import { baseName, isImagePath, withoutExtension } from "../../model/file-tree";
import { csvText } from "../csv/table";
import { cornersOption } from "../fit";
import type { Format, Options, Outgoing, PackageSink } from "../format";
import { UniqueNames } from "../unique-names";
import { paintedItem, paintObject, valueOf } from "./paint";
import { encodeMask, paletteColour } from "./png";
import { isMaskPath, maskPathOf, readMasks } from "./read";

async function writeMasks(outgoing: Outgoing, sink: PackageSink, options: Options): Promise<void> {
  const instances = options["kind"] === "instance";
  const names = new UniqueNames();
  const numbers = new Map(outgoing.classes.map((info, n) => [info.name, valueOf(n)]));
  const palette = Array.from({ length: 256 }, (_, value) => paletteColour(value));
  const rows: (string | number)[][] = [["image", "value", "class"]];
  for await (const item of outgoing.items) {
    const inside = item.split ? `${item.split}/` : "";
    const fileName = names.claim(inside, item.path);
    const stem = `${inside}${withoutExtension(fileName)}`;
    await sink.picture(`images/${inside}${fileName}`, item);
    // An unlabeled image gets no mask, an empty one a mask of background.
    if (item.state === "unlabeled") continue;
    const { width, height } = item.size;
    const map = new Uint16Array(width * height);
    item.objects.forEach((object, n) => {
      const value = instances ? valueOf(n) : (numbers.get(object.class) ?? 0);
      paintObject(map, object, width, height, value);
      if (instances) rows.push([`${stem}.png`, value, object.class]);
    });
    await sink.write(`masks/${stem}.png`, encodeMask(map, width, height, palette));
  }
  await sink.write(
    "classes.csv",
    csvText([
      ["value", "name", "r", "g", "b"],
      ...outgoing.classes.map((info, n) => [valueOf(n), info.name, ...paletteColour(valueOf(n))]),
    ]),
  );
  if (instances) await sink.write("objects.csv", csvText(rows));
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      instances
        ? "masks/: one PNG a picture, one value an object; objects.csv gives each value's class."
        : "masks/: one PNG a picture, a pixel's value is its class in classes.csv.",
      "0 is background, 255 is ignored. A mask of nothing but 0 is a picture that holds nothing; a picture without a mask is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}

export const masks: Format = {
  name: "masks",
  title: "PNG masks",
  carries: {
    shapes: ["mask", "polygon"],
    parts: "kept",
    holes: "kept",
    flags: [],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training:
    "Point a trainer at images and masks, whose files go by the same names; classes.csv says which number is which class.",
  loosePictures: true,
  options: [
    {
      name: "regions",
      values: ["connected", "class"],
      default: "connected",
      describes: "whether each connected region is an object, or all pixels of a class together",
      example: "regions=class",
      when: "reading",
    },
    {
      name: "kind",
      values: ["class", "instance"],
      default: "class",
      describes: "whether a pixel's value is its class, or one value an object with a table objects.csv",
      example: "kind=instance",
      when: "writing",
    },
    cornersOption,
  ],
  refit: (item, options, report) => paintedItem(item, options["kind"] === "instance", report),
  async recognise(entries, peek) {
    const table = entries.find((entry) => baseName(entry.path).toLowerCase() === "classes.csv");
    const found = new Map(
      entries.filter((entry) => isMaskPath(entry.path)).map((entry) => [withoutExtension(entry.path), entry.path]),
    );
    const paired =
      found.size === 0
        ? 0
        : entries.filter(
            (entry) =>
              isImagePath(entry.path) && !isMaskPath(entry.path) && maskPathOf(entry.path, found) !== undefined,
          ).length;
    if (paired === 0 && table && /^\uFEFF?"?value"?[,;\t]"?name/i.test(await peek(table.path)))
      return { score: 0.4, reason: `${table.path} names values, and no picture has a mask` };
    return {
      score: paired > 0 ? 0.96 : 0,
      reason:
        paired > 0
          ? `${paired} pictures have a mask of their name in masks/`
          : "no folder masks/ with a picture's name",
    };
  },
  read: readMasks,
  write: writeMasks,
};
