import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { rotatedBoxCorners } from "../geometry/shape";
import type { Shape } from "../model/shape";
import { dragGrip, gripAt, gripsOf, removeCorner } from "./grips";

const box: Shape = { kind: "box", x: 10, y: 20, width: 30, height: 40 };
const square: Shape = {
  kind: "polygon",
  parts: [
    [
      [0, 0, 10, 0, 10, 10, 0, 10],
      [4, 4, 6, 4, 6, 6],
    ],
  ],
};

describe("grips", () => {
  it("of a box move its corner or side, and past the other side turn it over", () => {
    expect(dragGrip(box, { of: "side", x: 1, y: 1 }, 50, 70)).toEqual({
      kind: "box",
      x: 10,
      y: 20,
      width: 40,
      height: 50,
    });
    expect(dragGrip(box, { of: "side", x: -1, y: 0 }, 50, 999)).toEqual({
      kind: "box",
      x: 40,
      y: 20,
      width: 10,
      height: 40,
    });
  });
  it("of a rotated box leave the opposite corner where it is", () => {
    fc.assert(
      fc.property(
        fc.double({ min: -3.1, max: 3.1, noNaN: true }),
        fc.double({ min: -80, max: 80, noNaN: true }),
        fc.double({ min: -80, max: 80, noNaN: true }),
        (angle, x, y) => {
          const before: Shape = { kind: "rotated-box", cx: 5, cy: 7, width: 30, height: 12, angle };
          const after = dragGrip(before, { of: "side", x: 1, y: 1 }, x, y);
          if (after.kind !== "rotated-box") throw new Error("it is another shape now");
          const [fx, fy] = rotatedBoxCorners(before) as [number, number];
          const corners = rotatedBoxCorners(after);
          const isCorner = (px: number, py: number) =>
            [0, 2, 4, 6].some((i) => Math.hypot((corners[i] as number) - px, (corners[i + 1] as number) - py) < 1e-6);
          expect(isCorner(fx, fy)).toBe(true);
          expect(isCorner(x, y)).toBe(true);
        },
      ),
    );
  });
  it("turn a rotated box to the pointer, by steps where asked", () => {
    const flat: Shape = { kind: "rotated-box", cx: 0, cy: 0, width: 20, height: 10, angle: 0 };
    expect(dragGrip(flat, { of: "turn" }, 50, 0)).toMatchObject({ angle: Math.PI / 2 });
    expect(dragGrip(flat, { of: "turn" }, 50, -40, Math.PI / 12)).toMatchObject({ angle: Math.PI / 4 });
    const turn = gripsOf(flat, 8).find(({ grip }) => grip.of === "turn");
    expect([turn?.x, turn?.y]).toEqual([0, -13]);
  });
  it("of polygons and lines move corners, and make new ones between", () => {
    expect(dragGrip(square, { of: "corner", part: 0, ring: 0, index: 2 }, 12, 13)).toMatchObject({
      parts: [
        [
          [0, 0, 10, 0, 12, 13, 0, 10],
          [4, 4, 6, 4, 6, 6],
        ],
      ],
    });
    expect(dragGrip(square, { of: "between", part: 0, ring: 0, index: 3 }, -2, 5)).toMatchObject({
      parts: [
        [
          [0, 0, 10, 0, 10, 10, 0, 10, -2, 5],
          [4, 4, 6, 4, 6, 6],
        ],
      ],
    });
    expect(dragGrip({ kind: "line", points: [0, 0, 10, 0] }, { of: "point-between", index: 0 }, 5, 5)).toEqual({
      kind: "line",
      points: [0, 0, 5, 5, 10, 0],
    });
  });
  it("that do not belong to a shape leave it alone", () => {
    expect(dragGrip(box, { of: "turn" }, 1, 1)).toBe(box);
    expect(dragGrip(square, { of: "side", x: 1, y: 1 }, 1, 1)).toBe(square);
  });
  it("take corners away: a hole goes with its third, the shape with the third of its last ring", () => {
    expect(removeCorner(square, { of: "corner", part: 0, ring: 1, index: 0 })).toEqual({
      kind: "polygon",
      parts: [[[0, 0, 10, 0, 10, 10, 0, 10]]],
    });
    const triangle: Shape = {
      kind: "polygon",
      parts: [
        [
          [0, 0, 10, 0, 10, 10],
          [4, 4, 6, 4, 6, 6],
        ],
      ],
    };
    expect(removeCorner(triangle, { of: "corner", part: 0, ring: 0, index: 1 })).toBeNull();
    expect(removeCorner({ kind: "line", points: [0, 0, 5, 5] }, { of: "point", index: 0 })).toBeNull();
    const points: Shape = {
      kind: "keypoints",
      points: [
        { x: 1, y: 1, v: 2 },
        { x: 3, y: 3, v: 1 },
      ],
    };
    expect(removeCorner(points, { of: "point", index: 0 })).toMatchObject({ points: [{ v: 0 }, { x: 3, v: 1 }] });
  });
  it("are picked by the pointer, corners before the middles between them", () => {
    const grips = gripsOf(box, 8);
    expect(gripAt(grips, 41, 61, 5)?.grip).toEqual({ of: "side", x: 1, y: 1 });
    expect(gripAt(grips, 100, 100, 5)).toBeNull();
    const tiny = gripsOf({ kind: "polygon", parts: [[[0, 0, 4, 0, 4, 4]]] }, 8);
    expect(gripAt(tiny, 1.9, 0, 5)?.grip).toMatchObject({ of: "corner", index: 0 });
  });
});
