import { describe, expect, it } from "vitest";
import { selectionSchema } from "../selection/chosen";
import { featureLength } from "../learning/features";
import { packFeatures } from "../learning/image-features";
import { smallSnapshot } from "../tests/small-snapshot";
import type { CutoutGroup, CutoutOrder } from "./cutout-group";
import { cutoutGroups, cutoutsOf } from "./cutouts";
import { Learned } from "./learned";

const everything = selectionSchema.parse({});
const look = (level: number) => new Uint8Array(featureLength).fill(level);
const box = { x: 10, y: 10, width: 20, height: 20 };

/** Each image has an object of a class with a crust, or is of a class as a whole; `level` is what it looks like. */
const images = [
  { of: "loaf", crust: "dark", level: 20 },
  { of: "loaf", crust: "dark", level: 24 },
  { of: "loaf", crust: "dark", level: 196 },
  { of: "loaf", crust: "light", level: 200 },
  { of: "loaf", crust: "light", level: 204 },
  // Rolls are lighter than loaves; a dark one is like a light loaf.
  { of: "roll", crust: "dark", level: 202 },
  { of: "roll", crust: "dark", level: 206 },
  { of: "roll", crust: "light", level: 250 },
  { whole: "loaf", level: 40 },
  { whole: "loaf", level: 44 },
  { whole: "loaf", level: 120 },
  { whole: "roll", level: 122 },
  { whole: "roll", level: 126 },
];
const snapshot = smallSnapshot(
  ["loaf", "roll"],
  images.map(({ of, crust = "", whole }) => ({
    objects: of ? [{ of, attributes: { crust } }] : [],
    classes: whole ? [whole] : [],
  })),
);
snapshot.learned = new Learned();
images.forEach(({ level }, n) =>
  snapshot.learned?.put(n + 1, packFeatures(look(level), [{ box, features: look(level) }]), n + 1),
);

const shown = (group: CutoutGroup, by: CutoutOrder, down: boolean, where = "") =>
  cutoutsOf(snapshot, { selection: { ...everything, where }, group, by, down, start: 0, limit: 50 }).cutouts;
const imagesOf = (...asked: Parameters<typeof shown>) => shown(...asked).map(({ image }) => image);

describe("cut-outs", () => {
  it("fall into groups by class, by class of the image and by value", () => {
    const groups = cutoutGroups(snapshot, everything).map(({ group, count }) => [
      ...Object.values<string | number>(group),
      count,
    ]);
    expect(groups).toEqual([
      ["class", 1, 5],
      ["class", 2, 3],
      ["image-class", 1, 3],
      ["image-class", 2, 2],
      ["attribute", "crust", "dark", 5],
      ["attribute", "crust", "light", 3],
    ]);
  });
  it("of a value stand out among those of their class that have it", () => {
    const dark: CutoutGroup = { of: "attribute", name: "crust", value: "dark" };
    expect(imagesOf(dark, "outlying", true)[0]).toBe(3);
    // Dark loaves lie around 80, light ones at 202: the third is the only one nearer to these, whatever rolls look like.
    const nearer = shown(dark, "other", false);
    expect(nearer.map(({ image, measure }) => [image, (measure ?? 0) < 0])).toEqual([
      [3, true],
      [7, false],
      [6, false],
      [1, false],
      [2, false],
    ]);
    expect(imagesOf(dark, "outlying", true, "has roll")).toEqual([6, 7]);
  });
  it("of a class of images stand out among these, and lie nearer to another such class", () => {
    const loaves: CutoutGroup = { of: "image-class", id: 1 };
    expect(imagesOf(loaves, "outlying", true)[0]).toBe(11);
    const [first, second] = shown(loaves, "other", false);
    expect([first?.image, second?.image]).toEqual([11, 9]);
    expect(first?.measure).toBeLessThan(0);
    expect(second?.measure).toBeGreaterThan(0);
    expect(first).toMatchObject({ object: null, x: 0, width: 100 });
  });
  it("of a class go by how far they are from its centre, known ones first", () => {
    expect(imagesOf({ of: "class", id: 1 }, "outlying", true)).toEqual([1, 2, 5, 4, 3]);
    expect(imagesOf({ of: "class", id: 1 }, "confidence", false)).toEqual([1, 2, 3, 4, 5]);
    expect(imagesOf({ of: "class", id: 9 }, "outlying", true)).toEqual([]);
  });
});
