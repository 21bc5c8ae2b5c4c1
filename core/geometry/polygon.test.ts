import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { clipRing, polygonArea, polygonMoments, ringContains, signedRingArea } from "./polygon";
import { paintPolygon, polygonToMask } from "./rasterise";
import { runsArea } from "./run-length";

/** Star-shaped rings around a middle, so that they never cross themselves. */
const star = fc
  .array(fc.integer({ min: 5, max: 60 }), { minLength: 3, maxLength: 14 })
  .chain((radii) =>
    fc
      .record({ x: fc.integer({ min: 0, max: 100 }), y: fc.integer({ min: 0, max: 80 }) })
      .map(({ x, y }) =>
        radii.flatMap((radius, i) => [
          x + radius * Math.cos((2 * Math.PI * i) / radii.length) + 0.013,
          y + radius * Math.sin((2 * Math.PI * i) / radii.length) + 0.017,
        ]),
      ),
  );

describe("polygonArea", () => {
  it("is worked out by hand for a triangle and for a square with a hole", () => {
    expect(signedRingArea([0, 0, 4, 0, 4, 3])).toBe(6);
    expect(
      polygonArea([
        [
          [0, 0, 10, 0, 10, 10, 0, 10],
          [2, 2, 5, 2, 5, 6, 2, 6],
        ],
      ]),
    ).toBe(88);
    expect(polygonArea([[[0, 0, 1, 0, 1, 1, 0, 1]], [[5, 5, 7, 5, 7, 6, 5, 6]]])).toBe(3);
  });
});

describe("clipRing", () => {
  it("cuts a triangle at the left edge where its sides cross it", () => {
    const clipped = clipRing([-2, 0, 2, 0, -2, 4], 10, 10);
    expect(Math.abs(signedRingArea(clipped))).toBeCloseTo(2, 12);
    expect(Math.min(...clipped.filter((_, i) => i % 2 === 0))).toBe(0);
  });
  it("keeps exactly what lies inside, against counting pixel centres", () => {
    fc.assert(
      fc.property(star, (ring) => {
        const clipped = clipRing(ring, 100, 80);
        for (let i = 0; i < clipped.length; i += 2) {
          expect(clipped[i]).toBeGreaterThanOrEqual(-1e-9);
          expect(clipped[i]).toBeLessThanOrEqual(100 + 1e-9);
          expect(clipped[i + 1]).toBeGreaterThanOrEqual(-1e-9);
          expect(clipped[i + 1]).toBeLessThanOrEqual(80 + 1e-9);
        }
        let whole = 0;
        for (let y = 0; y < 80; y++) for (let x = 0; x < 100; x++) if (ringContains(ring, x + 0.5, y + 0.5)) whole++;
        const part = clipped.length >= 6 ? runsArea(polygonToMask([[clipped]], 100, 80)) : 0;
        expect(part).toBe(whole);
      }),
      { numRuns: 60 },
    );
  });
});

describe("paintPolygon", () => {
  it("paints the pixels whose centre a point-in-polygon test finds inside, holes left out", () => {
    fc.assert(
      fc.property(star, star, (outer, hole) => {
        const bitmap = new Uint8Array(100 * 80);
        paintPolygon(bitmap, [[outer, hole]], 100, 80);
        for (let y = 0; y < 80; y += 3) {
          for (let x = 0; x < 100; x += 3) {
            const inside = ringContains(outer, x + 0.5, y + 0.5) !== ringContains(hole, x + 0.5, y + 0.5);
            expect(bitmap[y * 100 + x]).toBe(inside ? 1 : 0);
          }
        }
      }),
      { numRuns: 60 },
    );
  });
  it("has the first moments of a triangle and of a frame worked out by hand, whichever way its rings run", () => {
    // Area 4.5, middle (1, 1).
    expect(polygonMoments([[[0, 0, 3, 0, 0, 3]]])).toEqual([4.5, 4.5]);
    expect(polygonMoments([[[0, 3, 3, 0, 0, 0]]])).toEqual([4.5, 4.5]);
    // 6 × 4 around (3, 2), less 2 × 2 around (2, 2).
    const [x, y] = polygonMoments([
      [
        [0, 0, 6, 0, 6, 4, 0, 4],
        [1, 1, 3, 1, 3, 3, 1, 3],
      ],
    ]);
    expect([x, y]).toEqual([24 * 3 - 4 * 2, 24 * 2 - 4 * 2].map((value) => expect.closeTo(value, 9) as number));
  });
});
