import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "./run-length";
import { shapeArea, shapeBounds } from "./shape";
import { isConvex, quadrilateralMap, type Quadrilateral } from "./quadrilateral-map";
import { affine, applyToPoint, compose, invert, mapShape, mirroring, scaling } from "./transform";

const whole = (min: number, max: number) => fc.integer({ min, max });
const matrix = fc
  .tuple(whole(1, 5), whole(-2, 2), whole(0, 0), whole(1, 5), whole(-9, 9), whole(-9, 9))
  .map((numbers) => affine(...numbers));

describe("matrices", () => {
  it("compose in the order said", () => {
    fc.assert(
      fc.property(
        matrix,
        matrix,
        fc.integer({ min: -20, max: 20 }),
        fc.integer({ min: -20, max: 20 }),
        (first, second, x, y) => {
          expect(applyToPoint(compose(first, second), x, y)).toEqual(
            applyToPoint(second, ...applyToPoint(first, x, y)),
          );
        },
      ),
    );
  });
  it("are undone by their inverse", () => {
    fc.assert(
      fc.property(matrix, fc.integer({ min: -20, max: 20 }), fc.integer({ min: -20, max: 20 }), (m, x, y) => {
        const [bx, by] = applyToPoint(invert(m), ...applyToPoint(m, x, y));
        expect(bx).toBeCloseTo(x, 9);
        expect(by).toBeCloseTo(y, 9);
      }),
    );
  });
});

describe("mapShape", () => {
  it("mirrors a box: its right edge becomes its left", () => {
    expect(
      mapShape({ kind: "box", x: 10, y: 5, width: 20, height: 8 }, mirroring(100), { width: 100, height: 50 }),
    ).toEqual({ kind: "box", x: 70, y: 5, width: 20, height: 8 });
  });
  it("gives a polygon the box and area that scaling says", () => {
    const shape = {
      kind: "polygon" as const,
      parts: [
        [
          [0, 0, 10, 0, 10, 10, 0, 10],
          [2, 2, 4, 2, 4, 4, 2, 4],
        ],
      ],
    };
    const moved = mapShape(shape, scaling(2, 3), { width: 20, height: 30 });
    expect(shapeArea(moved)).toBe(shapeArea(shape) * 6);
    expect(shapeBounds(moved)).toEqual({ x: 0, y: 0, width: 20, height: 30 });
  });
  it("turns a rotated box about with a mirror, and makes it a polygon where its corners are no longer right", () => {
    const turned = mapShape({ kind: "rotated-box", cx: 30, cy: 20, width: 10, height: 4, angle: 0.3 }, mirroring(100), {
      width: 100,
      height: 50,
    });
    expect(turned.kind).toBe("rotated-box");
    expect(shapeBounds(turned)?.x).toBeCloseTo(100 - 30 - 5 * Math.cos(0.3) - 2 * Math.sin(0.3), 9);
    expect(
      mapShape({ kind: "rotated-box", cx: 30, cy: 20, width: 10, height: 4, angle: 0.3 }, scaling(2, 1), {
        width: 200,
        height: 50,
      }).kind,
    ).toBe("polygon");
  });
  it("mirrors a mask pixel by pixel", () => {
    const bits = Uint8Array.from([1, 0, 0, 1, 1, 0]);
    const moved = mapShape({ kind: "mask", width: 3, height: 2, counts: runsFromBitmap(bits, 3, 2) }, mirroring(3), {
      width: 3,
      height: 2,
    });
    expect(moved).toEqual({
      kind: "mask",
      width: 3,
      height: 2,
      counts: runsFromBitmap(Uint8Array.from([0, 0, 1, 0, 1, 1]), 3, 2),
    });
  });
});

describe("quadrilateralMap", () => {
  const square: Quadrilateral = [0, 0, 100, 0, 100, 80, 0, 80];
  const moves = fc.tuple(...Array.from({ length: 8 }, () => fc.integer({ min: -20, max: 20 })));
  it("sends corners to corners, keeps lines straight, and is undone by its inverse", () => {
    fc.assert(
      fc.property(moves, fc.integer({ min: 0, max: 100 }), fc.integer({ min: 0, max: 80 }), (by, x, y) => {
        const to = square.map((value, at) => value + (by[at] as number)) as unknown as Quadrilateral;
        fc.pre(isConvex(to));
        const map = quadrilateralMap(square, to);
        for (let at = 0; at < 8; at += 2) {
          const [px, py] = applyToPoint(map, square[at] as number, square[at + 1] as number);
          expect(px).toBeCloseTo(to[at] as number, 6);
          expect(py).toBeCloseTo(to[at + 1] as number, 6);
        }
        const [ax, ay] = applyToPoint(map, 0, y);
        const [bx, by2] = applyToPoint(map, x, y);
        const [cx, cy] = applyToPoint(map, 100, y);
        expect((bx - ax) * (cy - ay) - (by2 - ay) * (cx - ax)).toBeCloseTo(0, 4);
        const [rx, ry] = applyToPoint(invert(map), bx, by2);
        expect(rx).toBeCloseTo(x, 5);
        expect(ry).toBeCloseTo(y, 5);
      }),
    );
  });
  it("knows a folded quadrilateral", () => {
    expect([isConvex(square), isConvex([60, 60, 100, 0, 100, 80, 0, 80])]).toEqual([true, false]);
  });
});
