/** The ladder of shapes over every format: what is left is carried, and what was lost was said, before and after. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { shapeBounds } from "../geometry/shape";
import { Findings } from "../model/finding";
import { blankItem, type LabeledObject } from "../model/item";
import type { Shape } from "../model/shape";
import { fitItem, fitShape } from "./fit";
import type { Carries, SizedItem } from "./format";
import { possibleLosses } from "./possible-losses";
import { formats } from "./registry";

const size = { width: 60, height: 40 };
const coordinate = fc.integer({ min: 2, max: 18 });
const shape = fc.oneof(
  fc
    .tuple(coordinate, coordinate, coordinate, coordinate)
    .map(([x, y, width, height]): Shape => ({ kind: "box", x, y, width, height })),
  fc
    .tuple(coordinate, coordinate, fc.double({ min: 0.1, max: 1.4, noNaN: true }))
    .map(([width, height, angle]): Shape => ({ kind: "rotated-box", cx: 30, cy: 20, width, height, angle })),
  fc
    .tuple(coordinate, coordinate)
    .map(([x, y]): Shape => ({ kind: "polygon", parts: [[[x, y, x + 20, y + 1, x + 8, y + 15]]] })),
  fc.tuple(coordinate, coordinate).map(([x, y]): Shape => ({
    kind: "polygon",
    parts: [
      [
        [x, y, x + 16, y, x + 16, y + 16, x, y + 16],
        [x + 4, y + 4, x + 4, y + 8, x + 8, y + 8, x + 8, y + 4],
      ],
      [[x + 20, y, x + 24, y, x + 22, y + 9]],
    ],
  })),
  coordinate.map((at): Shape => ({
    kind: "mask",
    ...size,
    counts: [at * 40, 12, 28, 12, size.width * size.height - at * 40 - 52],
  })),
  fc.tuple(coordinate, coordinate).map(([x, y]): Shape => ({
    kind: "keypoints",
    points: [
      { x, y, v: 2 },
      { x: x + 10, y: y + 8, v: 1 },
    ],
    box: { x, y, width: 12, height: 10 },
  })),
);
const object = fc.record({
  class: fc.constantFrom("roll", "tart"),
  shape,
  crowd: fc.boolean(),
  occluded: fc.boolean(),
  attributes: fc.constantFrom({}, { glaze: "egg" }),
}) as fc.Arbitrary<LabeledObject>;
const item = fc
  .record({
    objects: fc.array(object, { maxLength: 3 }),
    classes: fc.uniqueArray(fc.constantFrom("roll", "tart"), { maxLength: 2 }),
    captions: fc.array(fc.constant("warm"), { maxLength: 2 }),
    split: fc.constantFrom("train" as const, "val" as const, null),
  })
  .map(({ objects, classes, captions, split }): SizedItem => ({
    ...blankItem("a.jpg"),
    size,
    split,
    objects,
    classes,
    captions,
    state: objects.length + classes.length + captions.length > 0 ? "labeled" : "empty",
  }));

const lossesOf = (report: Findings) =>
  report
    .list()
    .map(({ code }) => code)
    .filter((code) => code.startsWith("loss-"))
    .sort();

describe.each(formats.filter((format) => format.write))("$name", (format) => {
  const options = format.surveyed?.({ objects: 1, imageClasses: 1 }, {}) ?? {};
  it("carries what is left, and loses nothing more when it is fitted again", () => {
    fc.assert(
      fc.property(item, (whole) => {
        const fitted = fitItem(whole, format, options, new Findings());
        if (!fitted) return;
        const carries = format.carriesWith?.(options) ?? format.carries;
        for (const { shape: kept } of fitted.objects) expect(carries.shapes).toContain(kept.kind);
        if (carries.imageClasses !== "many")
          expect(fitted.classes.length).toBeLessThanOrEqual(carries.imageClasses === "one" ? 1 : 0);
        const again = new Findings();
        const twice = fitItem(fitted, format, options, again);
        // An image of several classes goes into each one's folder, where it is of that class alone: said at every
        // fitting.
        expect(lossesOf(again)).toEqual(
          format.name === "class-folders" && fitted.classes.length > 1 ? ["loss-image-class"] : [],
        );
        expect(twice?.objects).toEqual(fitted.objects);
        expect(twice?.state).toBe(fitted.state);
      }),
      { numRuns: 60 },
    );
  });
  it("says nothing is lost of what another format carries but what the table of losses has", () => {
    for (const source of formats.filter((other) => other.write && other !== format)) {
      const possible = possibleLosses(source, format);
      const from = source.surveyed?.({ objects: 1, imageClasses: 1 }, {}) ?? {};
      fc.assert(
        fc.property(item, (whole) => {
          const carried = fitItem(whole, source, from, new Findings());
          const report = new Findings();
          if (carried) fitItem(carried, format, options, report);
          for (const code of lossesOf(report)) expect(possible, `${source.name} to ${format.name}`).toContain(code);
        }),
        { numRuns: 12 },
      );
    }
  });
});

describe("fitShape", () => {
  const carrying = (shapes: Carries["shapes"], more: Partial<Carries> = {}): Carries => ({
    shapes,
    parts: "kept",
    holes: "kept",
    flags: [],
    attributes: false,
    captions: "none",
    fields: false,
    imageClasses: "none",
    noSplit: true,
    empty: true,
    ...more,
  });
  it("never goes up: a box stays a box or nothing", () => {
    const box: Shape = { kind: "box", x: 1, y: 2, width: 3, height: 4 };
    expect(fitShape(box, carrying(["box", "polygon", "mask"]), size)).toEqual({ shape: box, loss: null });
    expect(fitShape(box, carrying(["polygon", "mask", "rotated-box"]), size)).toBeNull();
  });
  it("comes down to the box around, whatever it was", () => {
    fc.assert(
      fc.property(shape, (given) => {
        const fitted = fitShape(given, carrying(["box"]), size);
        const [wanted, got] = [shapeBounds(given), fitted && shapeBounds(fitted.shape)];
        for (const side of ["x", "y", "width", "height"] as const)
          expect(got?.[side]).toBeCloseTo(wanted?.[side] as number, 9);
        expect(fitted?.loss === null).toBe(given.kind === "box");
      }),
    );
  });
  it("goes below a mask that would hold no pixel", () => {
    // A sliver between the centres of a column of pixels.
    const sliver: Shape = { kind: "polygon", parts: [[[2.6, 3, 2.9, 3, 2.9, 9, 2.6, 9]]] };
    const fitted = fitShape(sliver, carrying(["box", "mask"]), size);
    expect(fitted).toMatchObject({ loss: "loss-polygon", shape: { kind: "box", x: 2.6, y: 3, height: 6 } });
    expect(fitShape(sliver, carrying(["mask"]), size)).toBeNull();
    const holed: Shape = { kind: "polygon", parts: [[...(sliver.parts[0] ?? []), [2.7, 4, 2.7, 5, 2.8, 5]]] };
    expect(fitShape(holed, carrying(["polygon", "mask"], { holes: "mask" }), size)).toEqual({
      shape: sliver,
      loss: "loss-mask",
    });
  });
  it("fills holes where they are lost and says so, and makes a mask of them where that is the way", () => {
    const holed: Shape = {
      kind: "polygon",
      parts: [
        [
          [0, 0, 10, 0, 10, 10, 0, 10],
          [4, 4, 4, 6, 6, 6, 6, 4],
        ],
      ],
    };
    expect(fitShape(holed, carrying(["polygon"], { holes: "lost" }), size)).toEqual({
      shape: { kind: "polygon", parts: [[[0, 0, 10, 0, 10, 10, 0, 10]]] },
      loss: "loss-mask",
    });
    const masked = fitShape(holed, carrying(["polygon", "mask"], { holes: "mask" }), size);
    // 100 pixels less the 4 of the hole.
    expect(
      masked?.shape.kind === "mask" && masked.shape.counts.filter((_, n) => n % 2 === 1).reduce((a, b) => a + b, 0),
    ).toBe(96);
    expect(masked?.loss).toBeNull();
  });
});
