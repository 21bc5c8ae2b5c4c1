import { describe, expect, it } from "vitest";
import type { Split } from "../model/item";
import { compareVersions, HeldImages } from "./compare";
import { recipeOfFirst } from "./first-manifest";
import type { ReadLine } from "./manifest";

const size = { width: 10, height: 10 };
const line = (digit: string, split: Split, x: number, copy = 0): ReadLine => ({
  source: digit.repeat(64),
  copy,
  name: `${digit}.jpg`,
  split,
  state: "labeled",
  size,
  made: false,
  recipe: recipeOfFirst(digit.repeat(64), { orientation: 1, resize: null, flipSideways: false }, size),
  objects: [{ class: "roll", shape: { kind: "box", x, y: 0, width: 2, height: 2 } }],
  classes: [],
  captions: [],
  fields: {},
});
const held = (...lines: ReadLine[]) => {
  const images = new HeldImages();
  for (const entry of lines) images.add(entry);
  return images;
};

describe("compareVersions", () => {
  it("says what only one holds, what moved, and whose labels changed, by hand", () => {
    const first = held(line("1", "train", 0), line("1", "train", 5, 1), line("2", "val", 0), line("3", "train", 0));
    const second = held(line("2", "test", 0), line("3", "train", 1), line("4", "train", 0));
    expect(compareVersions(first, second)).toEqual({
      both: 2,
      onlyFirst: { count: 1, images: [{ source: "1".repeat(64), name: "1.jpg" }] },
      onlySecond: { count: 1, images: [{ source: "4".repeat(64), name: "4.jpg" }] },
      moved: [{ from: "val", to: "test", count: 1, images: [{ source: "2".repeat(64), name: "2.jpg" }] }],
      relabeled: { count: 1, images: [{ source: "3".repeat(64), name: "3.jpg" }] },
      reframed: 0,
      classes: [{ name: "roll", first: 4, second: 3 }],
    });
  });
  it("finds nothing between a version and itself, and compares no labels on other frames", () => {
    const same = held(line("1", "train", 0), line("2", "val", 0));
    expect(compareVersions(same, same)).toMatchObject({ both: 2, moved: [], relabeled: { count: 0 }, reframed: 0 });
    const one = line("1", "train", 3);
    one.recipe = { ...one.recipe, size: { width: 20, height: 10 } };
    expect(compareVersions(same, held(one))).toMatchObject({ both: 1, reframed: 1, relabeled: { count: 0 } });
  });
});
