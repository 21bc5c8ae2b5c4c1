import { isImagePath } from "../model/file-tree";
import { blankItem } from "../model/item";
import { splitFromPath } from "../model/split-name";
import type { Format } from "./format";

/** Pictures that came with no annotation Larder can read: all of them unlabeled. */
export const imagesOnly: Format = {
  name: "images-only",
  title: "Pictures without annotations",
  carries: {
    shapes: [],
    parts: "kept",
    holes: "lost",
    flags: [],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: false,
  },
  rounding: { pixels: 0, relative: 0 },
  training: "",
  loosePictures: true,
  options: [],
  async recognise(entries) {
    const some = entries.some((entry) => isImagePath(entry.path));
    return { score: some ? 0.05 : 0, reason: some ? "there are pictures" : "no picture" };
  },
  async read(files, _options, report) {
    const entries = await files.entries();
    for (const { path } of entries) {
      if (/\.(json|xml|csv)$/i.test(path))
        report.add(
          "annotation-unreadable",
          path,
          path.toLowerCase().endsWith(".json")
            ? "it is JSON, but not COCO: it has no images and annotations lists"
            : "no format fits it",
        );
    }
    return {
      classes: [],
      items: (async function* () {
        for (const { path } of entries) {
          if (!isImagePath(path)) continue;
          yield { ...blankItem(path), split: splitFromPath(path) };
        }
      })(),
    };
  },
};
