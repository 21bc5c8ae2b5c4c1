import { extensionOf } from "../../model/file-tree";
import { cornersOption } from "../fit";
import type { Format } from "../format";
import { isOwnArea } from "./annotation-store";
import { looksLikeCoco, readCoco } from "./read";
import { writeCoco } from "./write";

export const coco: Format = {
  name: "coco",
  title: "COCO JSON",
  carries: {
    shapes: ["box", "polygon", "mask", "keypoints"],
    parts: "kept",
    holes: "mask",
    flags: ["crowd", "occluded", "truncated", "difficult", "confidence"],
    attributes: true,
    captions: "many",
    fields: false,
    imageClasses: "none",
    area: true,
    licence: true,
    noSplit: true,
    empty: true,
  },
  rounding: { pixels: 0, relative: 0 },
  training:
    "For each split, point a trainer at its file annotations/instances_(split).json and at the folder of its name in images.",
  loosePictures: true,
  options: [
    {
      name: "unannotated",
      values: ["empty", "unlabeled"],
      default: "empty",
      describes: "what an image is that the file lists but that no annotation refers to",
      example: "unannotated=unlabeled",
      when: "reading",
    },
    cornersOption,
    {
      name: "names",
      values: ["base", "path"],
      default: "base",
      describes: "whether pictures lie side by side in their split's folder, or in the sub-folders they came in",
      example: "names=path",
      when: "writing",
    },
    {
      name: "ids",
      values: ["counted", "source"],
      default: "counted",
      describes: "whether category ids count from 1, or are those the classes came with, where they came from COCO",
      example: "ids=source",
      when: "writing",
    },
  ],
  refit: (item) => ({
    ...item,
    objects: item.objects.map((object) => {
      if (object.givenArea === undefined || isOwnArea(object.givenArea, object.shape)) return object;
      const { givenArea: _, ...rest } = object;
      return rest;
    }),
  }),
  async recognise(entries, peek) {
    const candidates = entries.filter((entry) => extensionOf(entry.path) === "json").slice(0, 20);
    for (const { path } of candidates) {
      if (looksLikeCoco(await peek(path)))
        return { score: 0.95, reason: `${path} has the lists images, annotations, categories` };
    }
    return {
      score: 0,
      reason: candidates.length > 0 ? "its JSON files hold no images and annotations lists" : "no JSON file",
    };
  },
  read: readCoco,
  write: writeCoco,
};
