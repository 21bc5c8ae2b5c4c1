import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { segmentDistance } from "./distance";
import { emptyCanvas, fillEnclosed, fillHoles, growMask, paintStroke, type MaskCanvas } from "./mask-canvas";
import { changedMask, grown, largestPart, maskOfPiece, withoutHoles } from "./mask-shape";

/** A canvas from rows of signs: # is in. */
function drawn(...rows: string[]): MaskCanvas {
  const canvas = emptyCanvas(rows[0]?.length ?? 0, rows.length);
  rows.forEach((row, y) => [...row].forEach((sign, x) => (canvas.bitmap[y * canvas.width + x] = sign === "#" ? 1 : 0)));
  return canvas;
}
const shown = ({ bitmap, width, height }: MaskCanvas) =>
  Array.from({ length: height }, (_, y) =>
    [...bitmap.subarray(y * width, (y + 1) * width)].map((pixel) => (pixel === 1 ? "#" : ".")).join(""),
  );

describe("a brush", () => {
  it("paints the pixels whose centres are within its radius of the stroke, no more and no less", () => {
    const coordinate = fc.double({ min: -10, max: 50, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate), { minLength: 1, maxLength: 4 }),
        fc.double({ min: 0.5, max: 15, noNaN: true }),
        (points, radius) => {
          const canvas = emptyCanvas(40, 30);
          paintStroke(canvas, points.flat(), radius, 1);
          for (let y = 0; y < 30; y++) {
            for (let x = 0; x < 40; x++) {
              const distance = Math.min(
                ...points.map(([px, py], i) => {
                  const [qx, qy] = points[Math.max(0, i - 1)] as [number, number];
                  return segmentDistance(x + 0.5, y + 0.5, px, py, qx, qy).distance;
                }),
              );
              if (Math.abs(distance - radius) < 1e-9) continue;
              expect(canvas.bitmap[y * 40 + x]).toBe(distance < radius ? 1 : 0);
            }
          }
        },
      ),
      { numRuns: 150 },
    );
  });
  it("rubs out what it painted", () => {
    const canvas = drawn("#####", "#####", "#####");
    paintStroke(canvas, [0.5, 1.5, 4.5, 1.5], 0.5, 0);
    expect(shown(canvas)).toEqual(["#####", ".....", "#####"]);
  });
});

describe("filling", () => {
  it("takes an enclosed region, also where only corners close it, and refuses one that reaches the border", () => {
    const canvas = drawn("......", ".###..", ".#..#.", "..##..", "......");
    expect(fillEnclosed(canvas, 2, 2)).toBe(true);
    expect(shown(canvas)).toEqual(["......", ".###..", ".####.", "..##..", "......"]);
    expect(fillEnclosed(canvas, 0, 0)).toBe(false);
    expect(fillEnclosed(canvas, 2, 2)).toBe(false);
    expect(fillEnclosed(canvas, 99, 2)).toBe(false);
  });
  it("closes holes and leaves bays open", () => {
    const canvas = drawn(".....", "####.", "#..#.", "####.", "#..#.");
    fillHoles(canvas);
    expect(shown(canvas)).toEqual([".....", "####.", "####.", "####.", "#..#."]);
  });
});

describe("growing", () => {
  it("widens by the distance of centres, and narrows by it; the border cuts nothing off", () => {
    const one = drawn(".......", ".......", ".......", "...#...", ".......", ".......", ".......");
    growMask(one, 2);
    expect(shown(one)).toEqual([".......", "...#...", "..###..", ".#####.", "..###..", "...#...", "......."]);
    const half = drawn("###..", "###..", "###..");
    growMask(half, -1);
    expect(shown(half)).toEqual(["##...", "##...", "##..."]);
  });
  it("agrees with the distance to every pixel, worked out one by one", () => {
    fc.assert(
      fc.property(
        fc.array(fc.boolean(), { minLength: 63, maxLength: 63 }),
        fc.integer({ min: -3, max: 3 }),
        (pixels, by) => {
          const canvas: MaskCanvas = { bitmap: Uint8Array.from(pixels, Number), width: 9, height: 7 };
          const before = [...canvas.bitmap];
          growMask(canvas, by);
          before.forEach((value, at) => {
            const isNear = (wanted: number) =>
              before.some(
                (other, there) =>
                  other === wanted &&
                  Math.hypot((at % 9) - (there % 9), Math.floor(at / 9) - Math.floor(there / 9)) <= Math.abs(by),
              );
            expect(canvas.bitmap[at]).toBe(by > 0 ? Number(isNear(1)) : by < 0 ? Number(!isNear(0)) : value);
          });
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe("a mask", () => {
  const canvas = drawn("##...#", "##...#", "......", "...###", "...#.#", "...###");
  const mask = maskOfPiece({ ...canvas, left: 0, top: 0 }, canvas);
  if (!mask) throw new Error("there is a mask");
  it("loses its holes, keeps its largest part, and is none where nothing is left", () => {
    const filled = withoutHoles(mask);
    expect(filled && shown({ ...filled, bitmap: bits(filled) })).toContain("...###");
    expect(filled && bits(filled).filter(Boolean)).toHaveLength(15);
    expect(bits(largestPart(mask)).filter(Boolean)).toHaveLength(8);
    expect(grown(mask, -5)).toBeNull();
    expect(changedMask(mask, 2, () => undefined)).toEqual(mask);
    expect(changedMask(mask, 0, ({ bitmap }) => void bitmap.fill(0))).toBeNull();
  });
});

function bits({ counts, width, height }: { counts: number[]; width: number; height: number }): Uint8Array {
  const bitmap = new Uint8Array(width * height);
  let at = 0;
  counts.forEach((run, i) => {
    for (let p = at; p < at + run; p++) bitmap[(p % height) * width + Math.floor(p / height)] = i % 2;
    at += run;
  });
  return bitmap;
}
