import { extensionOf } from "../../model/file-tree";
import type { Format } from "../format";
import { readVoc } from "./read";

export const voc: Format = {
  name: "voc",
  title: "VOC XML",
  carries: { shapes: ["box"], holes: false, attributes: false, captions: false, imageClasses: false, noSplit: true },
  options: [
    {
      name: "origin",
      type: "one | zero",
      default: "decided from the boxes",
      describes: "whether pixels count from 1 with inclusive edges, as published, or from 0 with exclusive ones",
      example: "origin=zero",
    },
  ],
  async recognise(entries, peek) {
    const sheets = entries.filter((entry) => extensionOf(entry.path) === "xml");
    for (const { path } of sheets.slice(0, 5)) {
      if (/<annotation[\s>]/.test(await peek(path))) return { score: 0.95, reason: `${sheets.length} XML files, each an <annotation>` };
    }
    return { score: 0, reason: sheets.length > 0 ? "its XML files hold no <annotation>" : "no XML file" };
  },
  read: readVoc,
};
