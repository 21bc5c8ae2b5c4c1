import { describe, expect, it } from "vitest";
import type { LabeledObject } from "../model/item";
import { OutputNames } from "../versions/output-names";
import { outputsOf, relabeledLabels, type PlannedImage } from "./outputs";
import { planSchema } from "./plan";

const box = (x: number, width = 20): LabeledObject["shape"] => ({ kind: "box", x, y: 10, width, height: 30 });
const image: PlannedImage = {
  key: "ab".repeat(32),
  size: { width: 200, height: 100 },
  orientation: 1,
  state: "labeled",
  objects: [
    { class: "roll", shape: box(0) },
    { class: "tart", shape: box(100), occluded: true },
  ],
  classes: ["tray", "roll"],
  captions: [],
  fields: {},
};

describe("outputsOf", () => {
  it("is the image itself where a plan changes nothing", () => {
    const [only, ...more] = outputsOf(image, planSchema.parse({}), "train", []);
    expect(more).toEqual([]);
    expect(only).toMatchObject({
      copy: 0,
      size: image.size,
      state: "labeled",
      objects: image.objects,
      classes: ["tray", "roll"],
    });
  });
  it("copies training images only, never flips the image itself, and mirrors boxes by hand", () => {
    const plan = planSchema.parse({ augment: { copies: 2, flipSideways: 1 } });
    const outputs = [...outputsOf(image, plan, "train", [])];
    expect(outputs.map(({ copy, transform }) => [copy, transform.flipSideways])).toEqual([
      [0, false],
      [1, true],
      [2, true],
    ]);
    // From 0…20 of 200 pixels to 180…200.
    expect(outputs[1]?.objects.map(({ shape }) => shape.kind === "box" && [shape.x, shape.width])).toEqual([
      [180, 20],
      [80, 20],
    ]);
    expect(outputs[1]?.objects[1]?.occluded).toBe(true);
    for (const split of ["val", "test"] as const) expect([...outputsOf(image, plan, split, [])]).toHaveLength(1);
  });
  it("stretches boxes with the image, by hand", () => {
    const [only] = outputsOf(
      image,
      planSchema.parse({ prepare: { resize: { mode: "stretch", width: 100, height: 300 } } }),
      "val",
      [],
    );
    expect(only?.size).toEqual({ width: 100, height: 300 });
    expect(only?.objects[1]?.shape).toEqual({ kind: "box", x: 50, y: 30, width: 10, height: 90 });
  });
  it("draws the same copies again, and others with another seed", () => {
    const flips = (seed: number) =>
      Array.from(
        { length: 40 },
        (_, n) =>
          [
            ...outputsOf(
              { ...image, key: String(n) },
              planSchema.parse({ split: { seed }, augment: { copies: 1, flipSideways: 0.5 } }),
              "train",
              [],
            ),
          ][1]?.transform.flipSideways,
      );
    expect(flips(1)).toEqual(flips(1));
    expect(flips(1)).not.toEqual(flips(2));
    expect(flips(1)).toContain(true);
    expect(flips(1)).toContain(false);
  });
  it("calls an image empty whose labels were all left out, unlabeled what nobody labeled", () => {
    const plan = planSchema.parse({ relabel: { leaveOut: ["roll", "tart", "tray"] } });
    expect([...outputsOf(image, plan, "val", [])][0]).toMatchObject({ state: "empty", objects: [], classes: [] });
    expect([...outputsOf({ ...image, captions: ["a tray"] }, plan, "val", [])][0]?.state).toBe("labeled");
    expect([...outputsOf({ ...image, state: "unlabeled", objects: [], classes: [] }, plan, "val", [])][0]?.state).toBe(
      "unlabeled",
    );
  });
});

describe("relabeledLabels", () => {
  it("renames, leaves out, and names an image's class once", () => {
    const plan = planSchema.parse({ relabel: { leaveOut: ["tart"], rename: { roll: "bread", tray: "bread" } } });
    expect(relabeledLabels(image, plan)).toEqual({ objects: [{ class: "bread", shape: box(0) }], classes: ["bread"] });
  });
});

describe("names of outputs", () => {
  it.each([
    ["shelf/a.b.JPG", 0, null, "a.b.jpg"],
    ["a.jpg", 2, null, "a_copy2.jpg"],
    ["a.jpg", 1, "png", "a_copy1.png"],
    ["a", 0, null, "a"],
    [".hidden", 0, "png", ".hidden.png"],
  ] as const)("of %s, copy %i, is as wanted", (name, copy, extension, wanted) => {
    expect(new OutputNames().claim(name, copy, extension)).toBe(wanted);
  });
  it("stand once in a version, by their stems", () => {
    const names = new OutputNames();
    const claimed = ["a/1.jpg", "b/1.jpg", "b/1.png", "c/1.JPG", "1_2.jpg"].map((name) => names.claim(name, 0, null));
    expect(claimed).toEqual(["1.jpg", "1_2.jpg", "1_3.png", "1_4.jpg", "1_2_2.jpg"]);
  });
});
