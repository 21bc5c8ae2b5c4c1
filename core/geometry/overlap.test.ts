import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Shape } from "../model/shape";
import { intersectionOverUnion, intersectPolygons, runsIntersection, subtractPolygons, unitePolygons } from "./overlap";
import { polygonArea } from "./polygon";
import { bitmapFromRuns, runsFromBitmap } from "./run-length";

const canvas = { width: 20, height: 16 };
const block = (x: number, y: number, width: number, height: number): Shape => {
  const bits = new Uint8Array(canvas.width * canvas.height);
  for (let row = y; row < y + height; row++)
    for (let column = x; column < x + width; column++) bits[row * canvas.width + column] = 1;
  return { kind: "mask", ...canvas, counts: runsFromBitmap(bits, canvas.width, canvas.height) };
};
/** The same two rectangles, 8 × 4 and 8 × 4, overlapping by 4 × 4: 16 / 48. */
const kinds: Record<string, [Shape, Shape]> = {
  box: [
    { kind: "box", x: 2, y: 3, width: 8, height: 4 },
    { kind: "box", x: 6, y: 3, width: 8, height: 4 },
  ],
  "rotated box": [
    { kind: "rotated-box", cx: 6, cy: 5, width: 4, height: 8, angle: Math.PI / 2 },
    { kind: "rotated-box", cx: 10, cy: 5, width: 8, height: 4, angle: Math.PI },
  ],
  polygon: [
    { kind: "polygon", parts: [[[2, 3, 10, 3, 10, 7, 2, 7]]] },
    { kind: "polygon", parts: [[[6, 3, 14, 3, 14, 7, 6, 7]]] },
  ],
  mask: [block(2, 3, 8, 4), block(6, 3, 8, 4)],
  keypoints: [
    { kind: "keypoints", points: [], box: { x: 2, y: 3, width: 8, height: 4 } },
    {
      kind: "keypoints",
      points: [
        { x: 6, y: 3, v: 2 },
        { x: 14, y: 7, v: 1 },
      ],
    },
  ],
};

describe("intersection over union", () => {
  const names = Object.keys(kinds);
  it.each(names.flatMap((a) => names.map((b) => [a, b])))("%s with %s is a third", (a, b) => {
    expect(intersectionOverUnion((kinds[a] as [Shape, Shape])[0], (kinds[b] as [Shape, Shape])[1])).toBeCloseTo(
      1 / 3,
      9,
    );
    expect(intersectionOverUnion((kinds[b] as [Shape, Shape])[1], (kinds[a] as [Shape, Shape])[0])).toBeCloseTo(
      1 / 3,
      9,
    );
  });
  it("is nothing for lines and for shapes apart", () => {
    const line: Shape = { kind: "line", points: [2, 3, 10, 7] };
    for (const [shape] of Object.values(kinds)) expect(intersectionOverUnion(line, shape)).toBe(0);
    expect(
      intersectionOverUnion(
        { kind: "box", x: 0, y: 0, width: 1, height: 1 },
        { kind: "polygon", parts: [[[5, 5, 6, 5, 6, 6]]] },
      ),
    ).toBe(0);
  });
  it("of runs is what counting pixels gives", () => {
    const bits = fc.uint8Array({ minLength: 320, maxLength: 320, max: 1 });
    fc.assert(
      fc.property(bits, bits, (a, b) => {
        const both = a.reduce((sum, bit, i) => sum + (bit && b[i] ? 1 : 0), 0);
        expect(runsIntersection(runsFromBitmap(a, 20, 16), runsFromBitmap(b, 20, 16))).toBe(both);
      }),
    );
  });
});

describe("Boolean operations", () => {
  it("on two squares, by hand", () => {
    const a = [[[0, 0, 10, 0, 10, 10, 0, 10]]];
    const b = [[[5, 5, 15, 5, 15, 15, 5, 15]]];
    expect([intersectPolygons(a, b), unitePolygons(a, b), subtractPolygons(a, b)].map(polygonArea)).toEqual([
      25, 175, 75,
    ]);
    expect(subtractPolygons(a, [[[2, 2, 8, 2, 8, 8, 2, 8]]])[0]).toHaveLength(2);
    expect(bitmapFromRuns([0, 4], 2, 2)).toEqual(Uint8Array.from([1, 1, 1, 1]));
  });
});
