import { describe, expect, it } from "vitest";
import { shapeArea, shapeBounds } from "../geometry/shape";
import type { Shape } from "../model/shape";
import { gripsOf } from "./grips";
import { fitShape, mirrorShape, moveCorners, moveShape, scaleAbout } from "./move";

const size = { width: 40, height: 30 };
const ell: Shape = { kind: "polygon", parts: [[[2, 2, 12, 2, 12, 6, 6, 6, 6, 20, 2, 20]]] };
const mask: Shape = { kind: "mask", width: 4, height: 3, counts: [1, 2, 9] };

describe("a shape as a whole", () => {
  it("moves, a mask by whole pixels and no further than the picture", () => {
    expect(shapeBounds(moveShape(ell, 1.5, -1, size))).toEqual({ x: 3.5, y: 1, width: 10, height: 18 });
    expect(moveShape(mask, 1.4, 0, { width: 4, height: 3 })).toEqual({ ...mask, counts: [4, 2, 6] });
    expect(moveShape(mask, 0, 1, { width: 4, height: 3 })).toEqual({ ...mask, counts: [2, 1, 9] });
    expect(moveShape(mask, 0.3, 0, size)).toBe(mask);
  });
  it("is mirrored within its own box, and twice is as it was", () => {
    const mirrored = mirrorShape(ell, "sideways", size);
    expect(mirrored).toMatchObject({ parts: [[[12, 2, 2, 2, 2, 6, 8, 6, 8, 20, 12, 20]]] });
    expect(mirrorShape(mirrored, "sideways", size)).toEqual(ell);
    expect(mirrorShape(ell, "upside-down", size)).toMatchObject({
      parts: [[[2, 20, 12, 20, 12, 16, 6, 16, 6, 2, 2, 2]]],
    });
  });
  it("is fitted into a box, and grows about its middle", () => {
    expect(shapeBounds(fitShape(ell, { x: 0, y: 0, width: 20, height: 9 }, size))).toEqual({
      x: 0,
      y: 0,
      width: 20,
      height: 9,
    });
    const larger = scaleAbout(ell, 1.5, size);
    expect(shapeArea(larger)).toBeCloseTo(2.25 * shapeArea(ell));
    expect(shapeBounds(larger)).toEqual({ x: -0.5, y: -2.5, width: 15, height: 27 });
  });
  it("has some of its corners moved together", () => {
    const corners = gripsOf(ell, 5).filter(({ grip }) => grip.of === "corner" && grip.index < 2);
    expect(moveCorners(ell, corners, 1, -2)).toMatchObject({ parts: [[[3, 0, 13, 0, 12, 6, 6, 6, 6, 20, 2, 20]]] });
  });
});
