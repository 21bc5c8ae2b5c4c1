import { describe, expect, it } from "vitest";
import { parseSelection } from "../../selection/parse";
import { smallSnapshot } from "../../tests/small-snapshot";
import type { Bar } from "./bars";
import { cellSelection, stockNumbers } from "./stock-numbers";
import { checkedStockOf } from "../checked-stock";
import { Learned } from "../../snapshot/learned";
import { tallyClasses } from "../tally";

const snapshot = smallSnapshot(
  ["roll", "loaf", "bun"],
  [
    // Areas 400 (side 20) and 100 (side 10), of a picture of 100 × 80.
    {
      objects: [
        { of: "roll", box: [0, 0, 20, 20] },
        { of: "loaf", box: [80, 60, 20, 20], area: 100 },
      ],
    },
    { objects: [{ of: "roll", box: [40, 30, 40, 10] }], width: 200, height: 400 },
    { delivery: 2, width: 50, height: 50 },
  ],
);
const numbers = stockNumbers(
  {
    ...{ snapshot, learned: null, slots: Uint32Array.from([0, 1, 2]) },
    tallies: tallyClasses(snapshot, Uint32Array.from([0, 1, 2])),
  },
  50,
);
const filled = (bars: readonly Bar[]) =>
  bars.filter(({ count }) => count > 0).map(({ label, count }) => [label, count]);

describe("numbers of a stock", () => {
  it("count objects an image, sizes, shares and ratios, by hand", () => {
    expect(filled(numbers.objectsAnImage)).toEqual([
      ["0", 1],
      ["1", 1],
      ["2", 1],
    ]);
    expect(filled(numbers.sides)).toEqual([
      ["8 px to 16 px", 1],
      ["16 px to 32 px", 2],
    ]);
    // On a longer edge of 50: sides of 10 and 5, and of 20 · 50 / 400 = 2.5.
    expect(filled(numbers.seenSides)).toEqual([
      ["under 4 px", 1],
      ["4 px to 8 px", 1],
      ["8 px to 16 px", 1],
    ]);
    // 400 and 100 of 8,000; 400 of 80,000.
    expect(filled(numbers.shares)).toEqual([
      ["0.3% to 1%", 1],
      ["1% to 3%", 1],
      ["3% to 10%", 1],
    ]);
    expect(filled(numbers.ratios)).toEqual([
      ["0.8 to 1.25", 2],
      ["4 and more", 1],
    ]);
    expect(filled(numbers.orientations)).toEqual([
      ["upright", 1],
      ["square", 1],
      ["lying", 1],
    ]);
    expect(numbers.imageSizes.map(({ where }) => where)).toContain("width = 200 and height = 400");
  });
  it("say which classes occur together and where in the picture, and what each delivery holds", () => {
    expect(numbers.together).toEqual({
      names: ["roll", "loaf"],
      images: [
        [2, 1],
        [1, 1],
      ],
    });
    const [roll] = numbers.heatMaps;
    // Middles: (0.1, 0.125) and (0.3, 0.0875) of 12 × 9 cells.
    expect(roll?.counts.flatMap((count, at) => (count > 0 ? [[at % 12, Math.floor(at / 12), count]] : []))).toEqual([
      [3, 0, 1],
      [1, 1, 1],
    ]);
    expect(numbers.deliveries.map(({ name, images, objects }) => [name, images, objects])).toEqual([
      ["delivery 1", 2, 3],
      ["delivery 2", 1, 0],
    ]);
    expect(numbers.deliveries[0]?.shares).toEqual([
      { name: "roll", share: 2 / 3 },
      { name: "loaf", share: 1 / 3 },
    ]);
  });
  it("name their images by selections that can be read", () => {
    const bars = [numbers.objectsAnImage, numbers.sides, numbers.shares, numbers.ratios, numbers.imageSizes].flat();
    for (const { where } of [...bars, ...numbers.orientations]) if (where) parseSelection(where);
    const [roll] = numbers.heatMaps;
    if (!roll) throw new Error("there are rolls");
    expect(cellSelection(roll, 0)).toBe('has "roll" (x < 0.0833, y < 0.1111)');
    expect(cellSelection(roll, 107)).toBe('has "roll" (x >= 0.9167, y >= 0.8889)');
    for (let at = 0; at < 108; at++) parseSelection(cellSelection(roll, at));
  });
  it("count attributes, keypoints, hours and what pictures are like, each with its images", () => {
    const points = (v: 0 | 1 | 2) => [
      { x: 1, y: 1, v },
      { x: 2, y: 2, v: 0 as const },
    ];
    const stock = smallSnapshot(
      [{ name: "bun", keypoints: ["top", "foot"] }],
      [
        {
          objects: [{ of: "bun", attributes: { bake: "dark" }, keypoints: points(2) }],
          taken: Date.UTC(2026, 10, 1, 23, 59),
        },
        {
          objects: [{ of: "bun", attributes: { bake: "dark" }, keypoints: points(1) }],
          taken: Date.UTC(2026, 10, 2, 6, 0),
        },
        { objects: [{ of: "bun", attributes: { bake: "pale", weight: 3 } }] },
      ],
    );
    const measures = new Learned();
    measures.put(2, new Uint8Array(0), 1, { brightness: 30, contrast: 5, cast: 0, sharpness: 400, burnt: 0 });
    const slots = Uint32Array.from([0, 1, 2]);
    const counted = stockNumbers({ ...checkedStockOf(stock, slots, null), measures }, 640);
    expect(counted.attributes).toEqual([
      {
        name: "bake",
        bars: [
          { label: "dark", count: 2, where: 'has any (field "bake" = "dark")' },
          { label: "pale", count: 1, where: 'has any (field "bake" = "pale")' },
        ],
      },
      { name: "weight", bars: [{ label: "3", count: 1, where: 'has any (field "weight" = "3")' }] },
    ]);
    for (const { bars } of counted.attributes) for (const { where } of bars) parseSelection(where ?? "");
    expect(counted.keypoints).toEqual([
      {
        name: "bun",
        keypoints: [
          { name: "top", visible: 1, hidden: 1, absent: 0 },
          { name: "foot", visible: 0, hidden: 0, absent: 2 },
        ],
      },
    ]);
    expect(counted.hours.filter(({ count }) => count > 0)).toEqual([
      { label: "06", count: 1, where: null, only: [2] },
      { label: "23", count: 1, where: null, only: [1] },
    ]);
    expect(filled(counted.brightness)).toEqual([["25 to 50", 1]]);
    expect(filled(counted.sharpness)).toEqual([["300 to 1,000", 1]]);
    expect(counted.contrast.find(({ count }) => count > 0)).toEqual({
      label: "under 10",
      count: 1,
      where: null,
      only: [2],
    });
    expect([numbers.brightness, numbers.hours, numbers.attributes, numbers.keypoints]).toEqual([[], [], [], []]);
  });
});
