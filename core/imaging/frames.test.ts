import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { applyToPoint } from "../geometry/transform";
import { planSchema } from "../plans/plan";
import { frameCount, framesOf } from "./frames";

const prepare = (text: object) => planSchema.parse({ prepare: text }).prepare;
const regions = (width: number, height: number, text: object) =>
  framesOf({ width, height }, prepare(text)).map(({ region: { x, y, width: w, height: h } }) => [x, y, w, h]);
const sizeOf = (width: number, height: number, resize: object) => {
  const [frame] = framesOf({ width, height }, prepare({ resize }));
  return frame && [frame.size.width, frame.size.height];
};

describe("framesOf", () => {
  it("crops by shares, in whole pixels", () => {
    expect(regions(200, 100, { crop: { left: "10%", top: "20%", right: "5%", bottom: 0 } })).toEqual([
      [20, 20, 170, 80],
    ]);
    expect(regions(1, 1, { crop: { left: "99%" } })).toEqual([[0, 0, 1, 1]]);
  });
  it("cuts equal tiles with an overlap by hand", () => {
    // 200 = t·(2 − 1·0.2): t = 111.1; the second begins at 200 − 111.1.
    expect(regions(200, 100, { tiles: { columns: 2, rows: 1, overlap: "20%" } })).toEqual([
      [0, 0, 111, 100],
      [89, 0, 111, 100],
    ]);
    // (200 + 20) / 2 = 110 pixels each.
    expect(regions(200, 100, { tiles: { columns: 2, rows: 1, overlap: 20 } })).toEqual([
      [0, 0, 110, 100],
      [90, 0, 110, 100],
    ]);
  });
  it("cuts tiles of a fixed size, the last of which ends at the edge", () => {
    expect(regions(200, 64, { tiles: { width: 64, height: 64, overlap: 16 } }).map(([x]) => x)).toEqual([
      0, 48, 96, 136,
    ]);
    expect(regions(50, 40, { tiles: { width: 64, height: 64 } })).toEqual([[0, 0, 50, 40]]);
  });
  it("covers every pixel with tiles that lie inside", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 20, max: 300 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 0, max: 50 }),
        (width, columns, overlap) => {
          const tiles = { columns, rows: 1, overlap: `${overlap}%` };
          const cut = framesOf({ width, height: 20 }, prepare({ tiles }));
          expect(cut).toHaveLength(frameCount({ width, height: 20 }, prepare({ tiles })));
          const seen = new Uint8Array(width);
          for (const { region } of cut) {
            expect(region.x >= 0 && region.x + region.width <= width).toBe(true);
            seen.fill(1, region.x, region.x + region.width);
          }
          expect(seen.every((value) => value === 1)).toBe(true);
        },
      ),
    );
  });
  it("refuses tiles of a pixel or two in a sentence", () => {
    expect(() => framesOf({ width: 30, height: 30 }, prepare({ tiles: { columns: 20, rows: 1 } }))).toThrow(
      /would be \d px/,
    );
  });
  it.each([
    ["fit", 100, 50, [100, 50]],
    ["fit", 400, 100, [200, 50]],
    ["pad", 400, 100, [200, 100]],
    ["stretch", 400, 100, [200, 100]],
    ["stretch", 100, 400, [100, 100]],
    ["fill", 400, 400, [200, 100]],
    ["fill", 100, 100, [100, 50]],
    ["longest", 400, 100, [200, 50]],
    ["longest", 100, 100, [100, 100]],
  ] as const)("%s of %i × %i into 200 × 100 never enlarges", (mode, width, height, size) => {
    expect(sizeOf(width, height, { mode, width: 200, height: 100 })).toEqual(size);
  });
  it("enlarges where that is asked for", () => {
    expect(sizeOf(100, 50, { mode: "fit", width: 200, height: 200, larger: true })).toEqual([200, 100]);
    expect(sizeOf(100, 100, { mode: "fill", width: 200, height: 100, larger: true })).toEqual([200, 100]);
  });
  it("lays a padded picture in the middle, and cuts a filling one in the middle", () => {
    const [padded] = framesOf(
      { width: 400, height: 100 },
      prepare({ resize: { mode: "pad", width: 200, height: 200 } }),
    );
    expect(padded?.content).toEqual({ x: 0, y: 75, width: 200, height: 50 });
    expect(applyToPoint(padded?.matrix as never, 400, 100)).toEqual([200, 125]);
    const [filled] = framesOf(
      { width: 400, height: 100 },
      prepare({ resize: { mode: "fill", width: 100, height: 100 } }),
    );
    expect(filled?.region).toEqual({ x: 150, y: 0, width: 100, height: 100 });
  });
});
