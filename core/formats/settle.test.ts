import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bitmapFromRuns, runsFromBitmap } from "../geometry/run-length";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { Findings } from "../model/finding";
import { blankItem, type Item, type LabeledObject } from "../model/item";
import type { Shape } from "../model/shape";
import type { FrameChoice } from "./label-frame";
import { settle } from "./settle";

const facts = { width: 200, height: 100, orientation: 1 };
const box = (x: number, y: number, width: number, height: number): Shape => ({ kind: "box", x, y, width, height });
const item = (objects: LabeledObject[], more: Partial<Item> = {}): Item => ({
  ...blankItem("a.jpg"),
  state: "labeled",
  objects,
  ...more,
});
function settled(given: Item, size = facts, choice: FrameChoice = {}) {
  const report = new Findings();
  return {
    item: settle(given, size, report, choice),
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

  it("finds labels made on unturned pixels or another scale, and moves them when that is chosen, by hand", () => {
    // Stored 100 × 200 and turned by a quarter clockwise: upright 200 × 100.
    const turned = { ...facts, orientation: 6 };
    const raw = { ...item([{ class: "roll", shape: box(10, 20, 30, 40) }]), declared: { width: 100, height: 200 } };
    expect(settled(raw, turned).codes).toMatchObject({ "labels-turned": 1, "size-mismatch": 1 });
    // (x, y) goes to (200 − y, x).
    const upright = settled(raw, turned, { turn: "labels" });
    expect(upright.item.objects[0]?.shape).toEqual(box(140, 10, 40, 30));
    expect(upright.codes).toEqual({ "exif-rotated": 1 });
    expect(settled(raw, turned, { turn: "keep" }).codes["labels-turned"]).toBeUndefined();

    const half = { ...item([{ class: "roll", shape: box(10, 20, 30, 20) }]), declared: { width: 100, height: 50 } };
    expect(settled(half).codes).toMatchObject({ "labels-scaled": 1, "size-mismatch": 1 });
    const whole = settled(half, facts, { scale: "labels" });
    expect(whole.item.objects[0]?.shape).toEqual(box(20, 40, 60, 40));
    expect(whole.codes).toEqual({});

    const nearly = { ...half, declared: { width: 199, height: 100 } };
    expect(settled(nearly).codes).toEqual({ "size-mismatch": 1 });
    expect(settled({ ...half, declared: { width: 100, height: 90 } }).codes).toEqual({ "size-mismatch": 1 });
  });
  it("turns a mask's pixels as the picture's are turned, for every flag", () => {
    const size = { width: 3, height: 2 };
    const pixels = Uint8Array.from([1, 0, 0, 1, 1, 0]);
    // The upright pictures of the letter L lying in 3 × 2, as EXIF 2.3 draws them.
    const upright: Record<number, string[]> = {
      1: ["1..", "11."],
      2: ["..1", ".11"],
      3: [".11", "..1"],
      4: ["11.", "1.."],
      5: ["11", ".1", ".."],
      6: ["11", "1.", ".."],
      7: ["..", "1.", "11"],
      8: ["..", ".1", "11"],
    };
    for (const [flag, rows] of Object.entries(upright)) {
      const orientation = Number(flag);
      const mask: Shape = { kind: "mask", ...size, counts: runsFromBitmap(pixels, size.width, size.height) };
      const given = { ...item([{ class: "roll", shape: mask }]), declared: size };
      const [width, height] = [rows[0]?.length ?? 0, rows.length];
      const { item: out } = settled(given, { width, height, orientation }, { turn: "labels" });
      const shape = out.objects[0]?.shape as Extract<Shape, { kind: "mask" }>;
      const bitmap = bitmapFromRuns(shape.counts, shape.width, shape.height);
      const drawn = rows.map((_, y) =>
        Array.from(bitmap.subarray(y * width, (y + 1) * width), (bit) => (bit ? "1" : ".")),
      );
      expect([flag, drawn.map((row) => row.join(""))]).toEqual([flag, rows]);
    }
  });
  it("tells repeats among a hundred thousand objects on one place without comparing each with each", () => {
    const alike = Array.from({ length: 100_000 }, (_, n) => ({ class: `c${n % 50_000}`, shape: box(1, 2, 3, 4) }));
    expect(settled(item(alike)).codes).toEqual({ "object-duplicate": 50_000 });
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
