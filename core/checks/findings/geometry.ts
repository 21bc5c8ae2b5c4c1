/** Objects by their boxes alone. Boxes and areas are in pixels of the image. */
import { objectsIn, plural, proofsWhere, type Check, type CheckedStock, type Found } from "../check";

/** Half a pixel beyond the border comes of rounding. */
const roundingPixels = 0.5;

function found(
  stock: CheckedStock,
  isMeant: (object: number, slot: number) => boolean,
  words: [string, string],
  rest: string,
) {
  const proofs = proofsWhere(stock, isMeant);
  const count = objectsIn(proofs);
  const finding: Found = {
    subject: "",
    sentence: `${plural(count, words[0], words[1])} ${rest}.`,
    ...{ count, proofs, where: null },
    mends: [{ label: "Remove these objects", removes: "objects" }],
  };
  return count > 0 ? [finding] : [];
}

export const boxTiny: Check = {
  code: "box-tiny",
  severity: "warning",
  counts: "objects",
  means: "Objects whose box has a shorter side of fewer pixels than can be seen or learned from.",
  threshold: { unit: "pixels", usual: 4, least: 1, most: 500, step: 1 },
  find: (stock, pixels) => {
    const { boxWidth, boxHeight } = stock.snapshot;
    const isTiny = (at: number) =>
      Math.min(boxWidth.at(at), boxHeight.at(at)) < pixels && boxWidth.at(at) + boxHeight.at(at) > 0;
    return found(stock, isTiny, ["object is", "objects are"], `fewer than ${pixels} pixels wide or high`);
  },
};

export const boxWholePicture: Check = {
  code: "box-whole-picture",
  severity: "warning",
  counts: "objects",
  means: "Objects whose box covers the whole picture: often an image-level class in disguise.",
  threshold: { unit: "% of the picture", usual: 98, least: 50, most: 100, step: 0.5 },
  find: (stock, percent) => {
    const { boxWidth, boxHeight, width, height } = stock.snapshot;
    const covers = (at: number, slot: number) =>
      boxWidth.at(at) * boxHeight.at(at) * 100 >= percent * width.at(slot) * height.at(slot);
    return found(stock, covers, ["object covers", "objects cover"], `${percent}% of their picture or more`);
  },
};

export const boxOutside: Check = {
  code: "box-outside-image",
  severity: "warning",
  counts: "objects",
  means: "Objects that reach more than half a pixel beyond the border of their picture.",
  threshold: null,
  find: (stock) => {
    const { x, y, boxWidth, boxHeight, width, height } = stock.snapshot;
    const reachesOut = (at: number, slot: number) =>
      x.at(at) < -roundingPixels ||
      y.at(at) < -roundingPixels ||
      x.at(at) + boxWidth.at(at) > width.at(slot) + roundingPixels ||
      y.at(at) + boxHeight.at(at) > height.at(slot) + roundingPixels;
    return found(stock, reachesOut, ["object reaches", "objects reach"], "out of their picture");
  },
};

export const outlineSparse: Check = {
  code: "outline-sparse",
  severity: "info",
  counts: "objects",
  means:
    "Areas with an outline or a mask that fill little of their box: a stray corner or pixel far from the rest makes a box too large.",
  threshold: { unit: "% of the box", usual: 8, least: 1, most: 50, step: 1 },
  find: (stock, percent) => {
    const { boxWidth, boxHeight, area } = stock.snapshot;
    const isSparse = (at: number) =>
      area.at(at) > 0 && area.at(at) * 100 < percent * boxWidth.at(at) * boxHeight.at(at);
    return found(stock, isSparse, ["outline fills", "outlines fill"], `less than ${percent}% of their box`);
  },
};
