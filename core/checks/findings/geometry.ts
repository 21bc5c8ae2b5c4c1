/** Objects by their boxes alone. Boxes and areas are in pixels of the image. */
import { judgeObjects, localCheck, objectsIn, plural, roundingPixels, type LocalJudgement } from "../check";

/** What is said of objects that are meant, with their removal as the mend. */
const conclude =
  (words: [string, string], rest: (threshold: number) => string): LocalJudgement["conclude"] =>
  (proofs, threshold) => {
    const count = objectsIn(proofs);
    return {
      sentence: `${plural(count, words[0], words[1])} ${rest(threshold)}.`,
      count,
      mends: [{ label: "Remove these objects", removes: "objects" }],
    };
  };

export const boxTiny = localCheck({
  code: "box-tiny",
  severity: "warning",
  counts: "objects",
  means: "Objects whose box has a shorter side of fewer pixels than can be seen or learned from.",
  threshold: { unit: "pixels", usual: 4, least: 1, most: 500, step: 1 },
  judge: (snapshot, pixels) => {
    const { boxWidth, boxHeight } = snapshot;
    const isTiny = (at: number) =>
      Math.min(boxWidth.at(at), boxHeight.at(at)) < pixels && boxWidth.at(at) + boxHeight.at(at) > 0;
    return judgeObjects(snapshot, isTiny);
  },
  conclude: conclude(["object is", "objects are"], (pixels) => `fewer than ${pixels} pixels wide or high`),
});

export const boxWholePicture = localCheck({
  code: "box-whole-picture",
  severity: "warning",
  counts: "objects",
  means: "Objects whose box covers the whole picture: often an image-level class in disguise.",
  threshold: { unit: "% of the picture", usual: 98, least: 50, most: 100, step: 0.5 },
  judge: (snapshot, percent) => {
    const { boxWidth, boxHeight, width, height } = snapshot;
    const covers = (at: number, slot: number) =>
      boxWidth.at(at) * boxHeight.at(at) * 100 >= percent * width.at(slot) * height.at(slot);
    return judgeObjects(snapshot, covers);
  },
  conclude: conclude(["object covers", "objects cover"], (percent) => `${percent}% of their picture or more`),
});

export const boxOutside = localCheck({
  code: "box-outside-image",
  severity: "warning",
  counts: "objects",
  means: "Objects that reach more than half a pixel beyond the border of their picture.",
  threshold: null,
  judge: (snapshot) => {
    const { x, y, boxWidth, boxHeight, width, height } = snapshot;
    const reachesOut = (at: number, slot: number) =>
      x.at(at) < -roundingPixels ||
      y.at(at) < -roundingPixels ||
      x.at(at) + boxWidth.at(at) > width.at(slot) + roundingPixels ||
      y.at(at) + boxHeight.at(at) > height.at(slot) + roundingPixels;
    return judgeObjects(snapshot, reachesOut);
  },
  conclude: conclude(["object reaches", "objects reach"], () => "out of their picture"),
});

export const outlineSparse = localCheck({
  code: "outline-sparse",
  severity: "info",
  counts: "objects",
  means:
    "Areas with an outline or a mask that fill little of their box: a stray corner or pixel far from the rest makes a box too large.",
  threshold: { unit: "% of the box", usual: 8, least: 1, most: 50, step: 1 },
  judge: (snapshot, percent) => {
    const { boxWidth, boxHeight, area } = snapshot;
    const isSparse = (at: number) =>
      area.at(at) > 0 && area.at(at) * 100 < percent * boxWidth.at(at) * boxHeight.at(at);
    return judgeObjects(snapshot, isSparse);
  },
  conclude: conclude(["outline fills", "outlines fill"], (percent) => `less than ${percent}% of their box`),
});
