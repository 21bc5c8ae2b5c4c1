/** Areas joined, cut and made into others, against areas worked out by hand or pixel by pixel. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { intersectionOverUnion } from "../geometry/overlap";
import { polygonToMask } from "../geometry/rasterise";
import { shapeArea } from "../geometry/shape";
import type { Shape } from "../model/shape";
import { cutOut, merged, splitAlong } from "./combine";
import { convertShape } from "./convert";
import { crossesItself, crossingsOf, uncrossed } from "./crossings";

const size = { width: 120, height: 100 };
const box = (x: number, y: number, width: number, height: number): Shape => ({ kind: "box", x, y, width, height });
const asMask = (shape: Shape): Shape => convertShape(shape, "mask", size)?.shape as Shape;

/** A disc as a polygon of many corners. */
const disc = (cx: number, cy: number, radius: number): Shape => ({
  kind: "polygon",
  parts: [
    [
      Array.from({ length: 120 }, (_, i) => (i / 120) * 2 * Math.PI).flatMap((angle) => [
        cx + radius * Math.cos(angle),
        cy + radius * Math.sin(angle),
      ]),
    ],
  ],
});

describe("areas", () => {
  it("are joined: what both cover counts once, and a mask among them makes a mask of all", () => {
    const both = merged([box(0, 0, 20, 10), box(10, 0, 20, 10)], size);
    expect(both?.kind).toBe("polygon");
    expect(both && shapeArea(both)).toBeCloseTo(300);
    const pixels = merged([asMask(box(0, 0, 20, 10)), box(10, 0, 20, 10)], size);
    expect(pixels?.kind).toBe("mask");
    expect(pixels && shapeArea(pixels)).toBe(300);
    expect(merged([box(0, 0, 5, 5), { kind: "line", points: [0, 0, 5, 5] }], size)).toBeNull();
  });
  it("are cut out of each other, down to nothing", () => {
    const left = cutOut(box(0, 0, 20, 20), box(5, 5, 10, 10), size);
    expect(left && shapeArea(left)).toBeCloseTo(300);
    expect(left?.kind === "polygon" && left.parts[0]).toHaveLength(2);
    expect(cutOut(box(5, 5, 10, 10), box(0, 0, 20, 20), size)).toBeNull();
    const mask = cutOut(asMask(box(0, 0, 20, 20)), box(5, 5, 10, 10), size);
    expect(mask && shapeArea(mask)).toBe(300);
  });
  it("are split along a line drawn on beyond its ends; the two make the whole again", () => {
    const halves = splitAlong(box(10, 10, 40, 20), [25, 12, 25, 18], size);
    expect(halves?.map(shapeArea).sort((a, b) => a - b)).toEqual([300, 500]);
    expect(splitAlong(box(10, 10, 40, 20), [5, 0, 5, 90], size)).toBeNull();
    expect(splitAlong(box(10, 10, 40, 20), [25, 12, 25, 12], size)).toBeNull();
    const bent = splitAlong(asMask(box(10, 10, 40, 20)), [30, 5, 30, 20, 60, 20], size);
    expect(bent?.map(shapeArea).sort((a, b) => a - b)).toEqual([200, 600]);
  });
  it("split by any line come to the same area in sum", () => {
    const coordinate = fc.integer({ min: 0, max: 100 });
    let parted = 0;
    fc.assert(
      fc.property(fc.tuple(coordinate, coordinate, coordinate, coordinate), (line) => {
        const whole = disc(50, 50, 30);
        const halves = splitAlong(whole, line, size);
        if (!halves) return;
        parted++;
        expect(shapeArea(halves[0]) + shapeArea(halves[1])).toBeCloseTo(shapeArea(whole), 4);
      }),
    );
    expect(parted).toBeGreaterThan(30);
  });
});

describe("a shape of another kind", () => {
  it("keeps to the mask it was made from: 0.995 of it at half a pixel", () => {
    fc.assert(
      fc.property(fc.integer({ min: 25, max: 40 }), fc.double({ min: 45, max: 60, noNaN: true }), (radius, centre) => {
        const mask = asMask(disc(centre, 50, radius));
        const polygon = convertShape(mask, "polygon", size, 0.5);
        const again = polygon && convertShape(polygon.shape, "mask", size);
        expect(again && intersectionOverUnion(mask, again.shape)).toBeGreaterThanOrEqual(0.995);
      }),
      { numRuns: 25 },
    );
    const exact = convertShape(asMask(disc(50, 50, 20)), "polygon", size, 0);
    expect(exact?.loss).toBe(0);
  });
  it("says what it loses: a disc fills π/4 of its box", () => {
    const toBox = convertShape(disc(50, 50, 20), "box", size);
    expect(toBox?.loss).toBeCloseTo(1 - Math.PI / 4, 2);
    const tilted: Shape = { kind: "polygon", parts: [[[50, 10, 90, 50, 50, 90, 10, 50]]] };
    expect(convertShape(tilted, "rotated-box", size)?.loss).toBeCloseTo(0);
    expect(convertShape(tilted, "box", size)?.loss).toBeCloseTo(0.5);
    expect(convertShape({ kind: "line", points: [0, 0, 9, 9] }, "box", size)).toBeNull();
  });
});

describe("an outline that crosses itself", () => {
  const bow = [0, 0, 10, 10, 10, 0, 0, 10];
  it("is found with the place, in one of 10,000 corners too; one that touches itself is none", () => {
    expect(crossingsOf(bow)).toEqual([[5, 5]]);
    expect(crossingsOf([0, 0, 10, 0, 10, 10, 0, 10])).toEqual([]);
    expect(crossesItself([[[0, 0, 5, 0, 5, 5, 10, 5, 5, 5, 5, 10]]])).toBe(false);
    const many = Array.from({ length: 10_000 }, (_, i) => (i / 10_000) * 2 * Math.PI).flatMap((angle) => [
      1000 * Math.cos(angle),
      1000 * Math.sin(angle),
    ]);
    expect(crossingsOf(many)).toEqual([]);
    [many[0], many[1]] = [-1200, 300];
    expect(crossingsOf(many).length).toBe(1);
  });
  it("is mended to the same pixels", () => {
    const mended = uncrossed([[bow]]);
    expect(crossesItself(mended)).toBe(false);
    expect(polygonToMask(mended, 12, 12)).toEqual(polygonToMask([[bow]], 12, 12));
  });
});
