import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { boxArea, boxIntersectionOverUnion, clipBox } from "./box";

const box = fc.record({
  x: fc.integer({ min: -50, max: 150 }),
  y: fc.integer({ min: -50, max: 150 }),
  width: fc.integer({ min: 0, max: 120 }),
  height: fc.integer({ min: 0, max: 120 }),
});

describe("clipBox", () => {
  it("cuts what lies past each edge", () => {
    expect(clipBox({ x: -10, y: 5, width: 30, height: 10 }, 100, 80)).toEqual({ x: 0, y: 5, width: 20, height: 10 });
    expect(clipBox({ x: 90, y: 70, width: 30, height: 30 }, 100, 80)).toEqual({ x: 90, y: 70, width: 10, height: 10 });
    expect(boxArea(clipBox({ x: 200, y: 5, width: 30, height: 10 }, 100, 80))).toBe(0);
  });
  it("leaves a box inside as it is, to the last bit", () => {
    const inside = { x: 0.1, y: 0.2, width: 0.30000000000000004, height: 0.7 };
    expect(clipBox(inside, 1, 1)).toEqual(inside);
  });
  it("is the pixels both share, counted one by one", () => {
    fc.assert(
      fc.property(box, (b) => {
        let pixels = 0;
        for (let y = 0; y < 100; y++)
          for (let x = 0; x < 100; x++)
            if (x + 0.5 > b.x && x + 0.5 < b.x + b.width && y + 0.5 > b.y && y + 0.5 < b.y + b.height) pixels++;
        expect(boxArea(clipBox(b, 100, 100))).toBe(pixels);
      }),
      { numRuns: 60 },
    );
  });
});

describe("boxIntersectionOverUnion", () => {
  it("is a seventh for two unit squares that share a quarter", () => {
    expect(
      boxIntersectionOverUnion({ x: 0, y: 0, width: 2, height: 2 }, { x: 1, y: 1, width: 2, height: 2 }),
    ).toBeCloseTo(1 / 7, 12);
  });
  it("is symmetric, within 0…1, and 1 with itself", () => {
    fc.assert(
      fc.property(box, box, (a, b) => {
        const value = boxIntersectionOverUnion(a, b);
        expect(value).toBe(boxIntersectionOverUnion(b, a));
        expect(value).toBeGreaterThanOrEqual(0);
        expect(value).toBeLessThanOrEqual(1);
        if (boxArea(a) > 0) expect(boxIntersectionOverUnion(a, a)).toBe(1);
      }),
    );
  });
});
