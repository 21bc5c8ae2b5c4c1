import { extensionOf, isImagePath } from "../../model/file-tree";
import type { Format } from "../format";
import { isClassList, isDataYaml } from "./class-list";
import { labelPathsFor, parseLine, readYolo } from "./read";
import { writeYolo } from "./write";

export const yolo: Format = {
  name: "yolo",
  title: "YOLO text, boxes",
  carries: { shapes: ["box"], holes: false, attributes: false, captions: false, imageClasses: false, noSplit: false },
  options: [],
  async recognise(entries, peek) {
    const texts = new Set(entries.filter((entry) => extensionOf(entry.path) === "txt" && !isClassList(entry.path)).map((entry) => entry.path));
    const described = entries.some((entry) => isDataYaml(entry.path) || isClassList(entry.path));
    const labels = entries.filter((entry) => isImagePath(entry.path)).flatMap((entry) => labelPathsFor(entry.path).filter((path) => texts.has(path)).slice(0, 1));
    let lines = 0;
    let fitting = 0;
    for (const path of labels.slice(0, 10)) {
      for (const line of (await peek(path)).split(/\r?\n/).slice(0, 20)) {
        if (line.trim() === "") continue;
        lines++;
        if (parseLine(line)) fitting++;
      }
    }
    if (labels.length === 0) return { score: described ? 0.1 : 0, reason: "no text file shares a picture's name" };
    if (lines > 0 && fitting / lines < 0.5) return { score: 0, reason: "the text files beside the pictures hold other lines" };
    return { score: described ? 0.9 : 0.7, reason: `${labels.length} text files share a picture's name and hold numbered lines` };
  },
  read: readYolo,
  write: writeYolo,
};
