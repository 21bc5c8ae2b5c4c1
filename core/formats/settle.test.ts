import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { Findings } from "../model/finding";
import { blankItem, type Item, type LabeledObject } from "../model/item";
import type { Shape } from "../model/shape";
import { settle } from "./settle";

const facts = { width: 200, height: 100, orientation: 1 };
const box = (x: number, y: number, width: number, height: number): Shape => ({ kind: "box", x, y, width, height });
const item = (objects: LabeledObject[], more: Partial<Item> = {}): Item => ({
  ...blankItem("a.jpg"),
  state: "labeled",
  objects,
  ...more,
});
function settled(given: Item, size = facts) {
  const report = new Findings();
  return {
    item: settle(given, size, report),
    codes: Object.fromEntries(report.list().map(({ code, count }) => [code, count])),
  };
}

describe("settling", () => {
  it("turns shares into pixels of the file's own size, whatever was declared", () => {
    const { item: out, codes } = settled(
      item([{ class: "roll", shape: box(0.25, 0.5, 0.5, 0.25) }], {
        units: "relative",
        declared: { width: 400, height: 200 },
      }),
    );
    expect(out).toMatchObject({
      units: "pixels",
      declared: { width: 200, height: 100 },
      objects: [{ shape: box(50, 50, 100, 25) }],
    });
    expect(codes).toEqual({ "size-mismatch": 1 });
  });
  it("cuts off what reaches outside with a word, and what rounding put there without", () => {
    const { item: out, codes } = settled(
      item([
        { class: "roll", shape: box(-10, 20, 60, 30) },
        { class: "roll", shape: box(100, 20, 100 + 1e-9, 30) },
      ]),
    );
    expect(out.objects.map(({ shape }) => shape)).toEqual([
      box(0, 20, 50, 30),
      expect.objectContaining({ x: 100, width: 100 }),
    ]);
    expect(codes).toEqual({ "box-outside-image": 1 });
  });
  it("drops what has no area or lies outside, and then nobody has said anything", () => {
    const { item: out, codes } = settled(
      item([
        { class: "roll", shape: box(10, 10, 0, 5) },
        { class: "roll", shape: box(300, 10, 20, 20) },
        { class: "tart", shape: box(Number.NaN, 1, 2, 3) },
      ]),
    );
    expect([out.state, out.objects]).toEqual(["unlabeled", []]);
    expect(codes).toEqual({ "shape-degenerate": 3, "box-outside-image": 1, "image-unlabeled": 1 });
  });
  it("says which objects are said again, and keeps them: same class, same shape, nothing less", () => {
    const outline = (y: number): Shape => ({ kind: "polygon", parts: [[[10, 10, 50, 10, 50, 40, y, 25, 10, 40]]] });
    const { item: out, codes } = settled(
      item([
        { class: "roll", shape: box(10, 10, 40, 30) },
        { class: "roll", shape: box(10, 10, 40, 30) },
        { class: "tart", shape: box(10, 10, 40, 30) },
        { class: "roll", shape: outline(30) },
        { class: "roll", shape: outline(20) },
        { class: "roll", shape: outline(20) },
      ]),
    );
    expect(out.objects).toHaveLength(6);
    expect(codes).toEqual({ "object-duplicate": 2 });
  });
  it("takes four corners for a rotated box where they mean one, by hand", () => {
    // A square of side 20 turned by 45 degrees around (100, 50): half its diagonal is 14.142….
    const d = 10 * Math.SQRT2;
    const corners = [100, 50 - d, 100 + d, 50, 100, 50 + d, 100 - d, 50];
    const given = item([{ class: "roll", shape: { kind: "polygon", parts: [[corners]] } }], {
      quadrilaterals: "rotated-box",
    });
    const { item: out, codes } = settled(given);
    expect(out.objects[0]?.shape).toMatchObject({
      kind: "rotated-box",
      cx: expect.closeTo(100, 9) as number,
      cy: expect.closeTo(50, 9) as number,
      width: expect.closeTo(20, 9) as number,
      height: expect.closeTo(20, 9) as number,
    });
    expect(out).not.toHaveProperty("quadrilaterals");
    expect(codes).toEqual({});
    const skewed = settled(
      item([{ class: "roll", shape: { kind: "polygon", parts: [[[10, 10, 60, 20, 70, 60, 10, 50]]] } }], {
        quadrilaterals: "rotated-box",
      }),
    );
    expect(skewed.item.objects[0]?.shape.kind).toBe("rotated-box");
    expect(skewed.codes).toEqual({ "format-ambiguous": 1 });
  });
  it("keeps a turned picture's labels where the upright picture has them, and says that it was turned", () => {
    const { item: out, codes } = settled(item([{ class: "roll", shape: box(1, 2, 3, 4) }]), {
      ...facts,
      orientation: 6,
    });
    expect(out.objects[0]?.shape).toEqual(box(1, 2, 3, 4));
    expect(codes).toEqual({ "exif-rotated": 1 });
  });

  const number = fc.oneof(
    fc.integer({ min: -300_000, max: 500_000 }).map((thousandths) => thousandths / 1000),
    fc.constantFrom(0, 100, 200, Number.NaN, Infinity),
  );
  const shape = fc.oneof(
    fc.tuple(number, number, number, number).map(([x, y, width, height]) => box(x, y, width, height)),
    fc
      .array(number, { minLength: 6, maxLength: 14 })
      .map((values): Shape => ({ kind: "polygon", parts: [[values.slice(0, values.length - (values.length % 2))]] })),
  );
  it("leaves only shapes with area inside the picture, and settling again changes nothing", () => {
    fc.assert(
      fc.property(fc.array(shape, { maxLength: 5 }), (shapes) => {
        const { item: out } = settled(item(shapes.map((given) => ({ class: "roll", shape: given }))));
        for (const { shape: kept } of out.objects) {
          const bounds = shapeBounds(kept);
          expect(shapeArea(kept)).toBeGreaterThan(0);
          expect(bounds?.x).toBeGreaterThanOrEqual(0);
          expect(bounds?.y).toBeGreaterThanOrEqual(0);
          expect((bounds?.x ?? 0) + (bounds?.width ?? 0)).toBeLessThanOrEqual(200 + 1e-9);
          expect((bounds?.y ?? 0) + (bounds?.height ?? 0)).toBeLessThanOrEqual(100 + 1e-9);
        }
        const again = settled(out);
        expect(again.item.objects).toHaveLength(out.objects.length);
        expect(again.codes["box-outside-image"]).toBeUndefined();
        expect(again.item.state).toBe(out.state);
      }),
      { numRuns: 300 },
    );
  });
});
