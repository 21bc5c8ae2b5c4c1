import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { paintPolygon, polygonToMask } from "./rasterise";
import { runsFromBitmap } from "./run-length";

describe("a polygon as runs", () => {
  it("is the same as painted on the whole canvas", () => {
    const side = fc.integer({ min: 1, max: 14 });
    const place = fc.integer({ min: -30, max: 190 }).map((tenths) => tenths / 10);
    const ring = fc.array(place, { minLength: 6, maxLength: 12 }).map((values) => values.slice(0, values.length & ~1));
    const parts = fc.array(fc.array(ring, { minLength: 1, maxLength: 2 }), { minLength: 1, maxLength: 3 });
    fc.assert(
      fc.property(side, side, parts, (width, height, polygon) => {
        const bitmap = new Uint8Array(width * height);
        paintPolygon(bitmap, polygon, width, height);
        expect(polygonToMask(polygon, width, height)).toEqual(runsFromBitmap(bitmap, width, height));
      }),
      { numRuns: 2000 },
    );
  });
  it("of the whole canvas is one run", () => {
    expect(polygonToMask([[[0, 0, 4, 0, 4, 3, 0, 3]]], 4, 3)).toEqual([0, 12]);
    expect(polygonToMask([[[9, 9, 12, 9, 12, 12]]], 4, 3)).toEqual([12]);
  });
});
