import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { blankItem, type Item, type LabeledObject, type Size } from "../model/item";
import type { Shape } from "../model/shape";
import { ExpectedLabels } from "./expected";

const size: Size = { width: 400, height: 300 };
const roll: LabeledObject = { class: "roll", shape: { kind: "box", x: 10, y: 20, width: 100, height: 80 } };
const tart: LabeledObject = {
  class: "tart",
  shape: { kind: "polygon", parts: [[[200, 100, 300, 100, 300, 200, 200, 200]]] },
  occluded: true,
  attributes: { glaze: "sugar" },
};
const whole: Item & { size: Size } = {
  ...blankItem("images/a.jpg"),
  size,
  split: "train",
  state: "labeled",
  objects: [roll, tart],
  classes: ["tray"],
  captions: ["two of them"],
  fields: { oven: "3" },
};
const half = { pixels: 0.5, relative: 0 };

function differs(change: Partial<Item>, rounding = half, announced: Item & { size: Size } = whole): string | null {
  const expected = new ExpectedLabels();
  expected.add(announced.path, announced);
  expected.startComparing();
  return expected.compare({ ...announced, ...change }, rounding);
}
const withObject = (n: number, change: Partial<LabeledObject>) => ({
  objects: whole.objects.map((object, i) => (i === n ? { ...object, ...change } : object)),
});
const boxAt = (x: number, width = 100): Shape => ({ kind: "box", x, y: 20, width, height: 80 });

describe("what has to come back", () => {
  it("is the same item, also with its objects in another order", () => {
    expect(differs({})).toBeNull();
    expect(differs({ objects: [tart, roll] })).toBeNull();
  });
  it("may be off by the format's rounding and no more", () => {
    expect(differs(withObject(0, { shape: boxAt(10.49) }))).toBeNull();
    expect(differs(withObject(0, { shape: boxAt(10.51, 99.5) }))).toMatch(/object 1 .* a roll, came back different/);
    expect(differs(withObject(0, { shape: boxAt(10.3) }), { pixels: 0, relative: 1e-3 })).toBeNull();
    expect(differs(withObject(0, { shape: boxAt(10.5) }), { pixels: 0, relative: 1e-3 })).not.toBeNull();
  });
  it.each<[string, Partial<Item>, RegExp]>([
    ["state", { state: "empty", objects: [] }, /was labeled and came back empty/],
    ["split", { split: "val" }, /was in train and came back in val/],
    ["no split", { split: null }, /came back in none/],
    ["an object less", { objects: [roll] }, /had 2 objects and came back with 1/],
    ["an object more", { objects: [roll, tart, roll] }, /came back with 3/],
    ["another class of the image", { classes: ["plate"] }, /other classes, captions or fields/],
    ["no caption", { captions: [] }, /other classes, captions or fields/],
    ["another field", { fields: { oven: "4" } }, /other classes, captions or fields/],
    ["another class", withObject(0, { class: "loaf" }), /came back different/],
    [
      "another kind of shape",
      withObject(0, { shape: { kind: "polygon", parts: [[[10, 20, 110, 20, 110, 100, 10, 100]]] } }),
      /came back different/,
    ],
    ["a flag less", withObject(1, { occluded: undefined }), /came back different/],
    ["another attribute", withObject(1, { attributes: { glaze: "egg" } }), /came back different/],
    [
      "an outline of the same box and less area",
      withObject(1, { shape: { kind: "polygon", parts: [[[200, 100, 300, 100, 300, 200, 250, 110, 200, 200]]] } }),
      /came back different/,
    ],
  ])("is not the same with %s", (_, change, sentence) => {
    expect(differs(change)).toMatch(sentence);
  });
  const hundredth = { pixels: 0.01, relative: 0 };
  const points = (x: number, v: 1 | 2 = 2): Shape => ({
    kind: "keypoints",
    points: [
      { x, y: 40, v },
      { x: 0, y: 0, v: 0 },
    ],
    box: { x: 10, y: 20, width: 100, height: 80 },
  });
  const mask = (...counts: number[]): Shape => ({ kind: "mask", width: 400, height: 300, counts });
  // Standing on its long or its short side: of one box, one area and as many corners.
  const trapezoid = (top: number, bottom: number): Shape => ({
    kind: "polygon",
    parts: [[[250 - top, 100, 250 + top, 100, 250 + bottom, 200, 250 - bottom, 200]]],
  });
  it.each<[string, Shape, Shape]>([
    ["a keypoint a hundredth further on", points(50), points(50.02)],
    ["a keypoint hidden", points(50), points(50, 1)],
    ["one pixel of a mask elsewhere", mask(3000, 2, 298, 4, 116_696), mask(3000, 3, 297, 3, 116_697)],
    ["an outline upside down", trapezoid(50, 10), trapezoid(10, 50)],
    [
      "a line's middle point elsewhere",
      { kind: "line", points: [10, 10, 30, 20, 90, 90] },
      { kind: "line", points: [10, 10, 40, 20, 90, 90] },
    ],
  ])("is not the same with %s, its box and area being alike", (_, out, back) => {
    const announced = { ...whole, ...withObject(0, { shape: out }) };
    expect(differs({}, hundredth, announced)).toBeNull();
    expect(differs(withObject(0, { shape: back }), hundredth, announced)).toMatch(/came back different/);
  });
  it("comes back once, and nothing else does", () => {
    const expected = new ExpectedLabels();
    expected.add("a.jpg", { ...whole, path: "a.jpg" });
    expected.add("b.jpg", { ...whole, path: "b.jpg" });
    expect(() => expected.add("a.jpg", whole)).toThrow(/twice/);
    expected.startComparing();
    expect(expected.compare({ ...whole, path: "a.jpg" }, half)).toBeNull();
    expect(expected.compare({ ...whole, path: "a.jpg" }, half)).toMatch(/came back twice/);
    expect(expected.compare({ ...whole, path: "c.jpg" }, half)).toMatch(/was not written/);
    expect(expected.missing()).toBe("b.jpg");
    expect(expected.compare({ ...whole, path: "b.jpg" }, half)).toBeNull();
    expect(expected.missing()).toBeNull();
    expected.startComparing();
    expect(expected.missing()).toBe("a.jpg");
    expect([expected.count, expected.objects]).toEqual([2, 4]);
    expect([expected.sizeOf("b.jpg"), expected.sizeOf("c.jpg")]).toEqual([size, null]);
  });
  it("is found whatever was moved, as soon as it moved further than the rounding", () => {
    const edge = fc.integer({ min: 1, max: 100 });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(edge, edge, edge, edge, fc.constantFrom("roll", "tart")), { minLength: 1, maxLength: 6 }),
        fc.nat(),
        fc.constantFrom("x", "y", "width", "height"),
        fc.double({ min: 0, max: 3, noNaN: true }),
        (boxes, which, side, by) => {
          const objects = boxes.map(([x, y, width, height, name]): LabeledObject => ({
            class: name,
            shape: { kind: "box", x, y, width, height },
          }));
          const announced = { ...whole, objects };
          const moved = objects.map((object, n) =>
            n === which % objects.length && object.shape.kind === "box"
              ? { ...object, shape: { ...object.shape, [side]: object.shape[side as "x"] + by } }
              : object,
          );
          const differences = differs({ objects: moved }, half, announced);
          if (by < 0.499) expect(differences).toBeNull();
          if (by > 0.501 && objects.length === 1) expect(differences).not.toBeNull();
        },
      ),
    );
  });
});
