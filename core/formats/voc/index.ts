import { extensionOf } from "../../model/file-tree";
import { keepAttributes } from "../fit";
import type { Format, SizedItem } from "../format";
import { readVoc } from "./read";
import { integerEdges, writeVoc } from "./write";

/** A box thinner than a pixel becomes the pixel it lies in: whole edges cannot be nearer, and it must not be empty. */
function atLeastAPixel(item: SizedItem): SizedItem {
  const objects = item.objects.map((object) => {
    const { shape } = object;
    if (shape.kind !== "box" || (shape.width >= 1 && shape.height >= 1)) return object;
    const edges = integerEdges(shape, item.size, 0);
    return edges
      ? {
          ...object,
          shape: {
            kind: "box" as const,
            x: edges.xmin,
            y: edges.ymin,
            width: edges.xmax - edges.xmin,
            height: edges.ymax - edges.ymin,
          },
        }
      : object;
  });
  return { ...item, objects };
}

export const voc: Format = {
  name: "voc",
  title: "VOC XML",
  carries: {
    shapes: ["box"],
    parts: "kept",
    holes: "lost",
    flags: ["occluded", "truncated", "difficult"],
    attributes: ["pose"],
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0.5, relative: 0 },
  readsBackWith: (options) => ({ origin: options["write-origin"] ?? "one" }),
  training:
    "Point a trainer at the package's own folder: it finds the names of each split in ImageSets/Main, one sheet a picture in Annotations.",
  loosePictures: true,
  options: [
    {
      name: "origin",
      values: ["one", "zero"],
      default: "decided from the boxes",
      describes: "whether pixels count from 1 with inclusive edges, as published, or from 0 with exclusive ones",
      example: "origin=zero",
      when: "reading",
    },
    {
      name: "write-origin",
      values: ["one", "zero"],
      default: "one",
      describes: "the same for what is written; where only the target is voc, plain origin is enough",
      example: "write-origin=zero",
      when: "writing",
    },
  ],
  async recognise(entries, peek) {
    const sheets = entries.filter((entry) => extensionOf(entry.path) === "xml");
    for (const { path } of sheets.slice(0, 5)) {
      if (/<annotation[\s>]/.test(await peek(path)))
        return { score: 0.95, reason: `${sheets.length} XML files, each an <annotation>` };
    }
    return { score: 0, reason: sheets.length > 0 ? "its XML files hold no <annotation>" : "no XML file" };
  },
  // A pose is a word, and not one of those that say there is none.
  refit: (item, _options, report) =>
    atLeastAPixel(
      keepAttributes(
        item,
        (_name, value) =>
          typeof value === "string" &&
          value.trim() === value &&
          value !== "" &&
          !/^(unspecified|unknown)$/i.test(value),
        report,
      ),
    ),
  read: readVoc,
  write: writeVoc,
};
