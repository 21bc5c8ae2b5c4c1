import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Shape } from "../model/shape";
import { joinedPaths, shapePaths } from "./path-data";

const areas = (shape: Shape) => shapePaths(shape, 2).areas;

/** The rings of a path of straight lines, as flat coordinates. */
const ringsOf = (path: string): number[][] =>
  path
    .split("Z")
    .filter((ring) => ring !== "")
    .map((ring) => (ring.match(/-?[\d.]+(e-?\d+)?/g) ?? []).map(Number));

/** How often rings wind around a point, by crossings of a ray to the right: what the fill rule "nonzero" goes by. */
function windingNumber(rings: readonly number[][], x: number, y: number): number {
  let winding = 0;
  for (const ring of rings)
    for (let i = 0; i < ring.length; i += 2) {
      const [x1, y1] = [ring[i] as number, ring[i + 1] as number];
      const [x2, y2] = [ring[(i + 2) % ring.length] as number, ring[(i + 3) % ring.length] as number];
      if (y1 <= y === y2 <= y || x1 + ((y - y1) / (y2 - y1)) * (x2 - x1) <= x) continue;
      winding += y1 < y2 ? 1 : -1;
    }
  return winding;
}

const square = (x: number, y: number, side: number) => [x, y, x + side, y, x + side, y + side, x, y + side];
const backwards = (ring: readonly number[]) =>
  Array.from({ length: ring.length / 2 }, (_, n) => ring.slice(ring.length - 2 * n - 2, ring.length - 2 * n)).flat();

describe("path data", () => {
  it("is a box's corners, a line's points, and a turned box's corners", () => {
    expect(areas({ kind: "box", x: 3, y: 4.5, width: 10, height: 2 })).toBe("M3 4.5h10v2h-10Z");
    const line = shapePaths({ kind: "line", points: [1, 2, 3, 4, 5, 0] }, 2);
    expect(line).toEqual({ areas: "", masks: "", lines: "M1 2L3 4L5 0", seen: "", hidden: "" });
    const [turned] = ringsOf(areas({ kind: "rotated-box", cx: 5, cy: 5, width: 4, height: 2, angle: 0 }));
    expect(new Set(turned)).toEqual(new Set([3, 4, 7, 6]));
  });
  it("has dots of keypoints that are seen apart from those that are hidden, and none of those not labeled", () => {
    const { areas, seen, hidden } = shapePaths(
      {
        kind: "keypoints",
        points: [
          { x: 10, y: 20, v: 2 },
          { x: 30, y: 40, v: 1 },
          { x: 0, y: 0, v: 0 },
        ],
      },
      2,
    );
    expect(areas).toBe("M10 20h20v20h-20Z");
    expect(seen).toBe("M8 20a2 2 0 1 0 4 0a2 2 0 1 0 -4 0Z");
    expect(hidden).toBe("M28 40a2 2 0 1 0 4 0a2 2 0 1 0 -4 0Z");
  });
  it("of a mask is what its pixels cover", () => {
    // Two rows of four pixels, the middle two of each set, column by column: 2 clear, 4 set, 2 clear.
    const { masks } = shapePaths({ kind: "mask", width: 4, height: 2, counts: [2, 4, 2] }, 2);
    const rings = ringsOf(masks);
    expect([0.5, 1.5, 2.5, 3.5].map((x) => windingNumber(rings, x, 1) !== 0)).toEqual([false, true, true, false]);
  });
  it("of shapes over each other in one path is filled where any of them is and in no hole, whichever way rings run", () => {
    const ring = (side: fc.Arbitrary<number>) =>
      fc.record({ x: fc.integer({ min: 0, max: 20 }), y: fc.integer({ min: 0, max: 20 }), side, turned: fc.boolean() });
    const drawn = fc.record({ outer: ring(fc.integer({ min: 9, max: 20 })), hole: fc.boolean(), other: fc.boolean() });
    fc.assert(
      fc.property(fc.array(drawn, { minLength: 1, maxLength: 4 }), (shapes) => {
        const covers = shapes.map(({ outer: { x, y, side }, hole }) => (px: number, py: number) => {
          const within = (left: number, top: number, width: number) =>
            px > left && px < left + width && py > top && py < top + width;
          return within(x, y, side) && !(hole && within(x + 3, y + 3, 3));
        });
        const paths = shapes.map(({ outer: { x, y, side, turned }, hole, other }) => {
          const rings = [square(x, y, side), ...(hole ? [square(x + 3, y + 3, 3)] : [])];
          const parts = [rings.map((one, nth) => ((nth === 0 ? turned : other) ? backwards(one) : one))];
          return shapePaths({ kind: "polygon", parts }, 2);
        });
        const rings = ringsOf(joinedPaths(paths).areas);
        for (let px = 0.5; px < 41; px += 2)
          for (let py = 0.5; py < 41; py += 2)
            expect(windingNumber(rings, px, py) !== 0).toBe(covers.some((covered) => covered(px, py)));
      }),
      { numRuns: 60 },
    );
  });
});
