import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { rotatedBoxCorners } from "../geometry/shape";
import {
  boxBetween,
  boxOnEdge,
  closesRing,
  isAccident,
  shapeOfKeypoints,
  shapeOfPath,
  withFreehandPoint,
  withKeypoint,
  withPoint,
} from "./drawing";
import { edgeCosts, greyOf, TraceField } from "./edge-trace";
import { sharedEdge, snapPoint } from "./snap";

describe("drawing", () => {
  it("a box between two corners, whichever they are", () => {
    expect(boxBetween([30, 5], [10, 25])).toEqual({ x: 10, y: 5, width: 20, height: 20 });
  });
  it("a rotated box on an edge: both ends are its corners, and the third place lies on the opposite side", () => {
    const coordinate = fc.double({ min: 0, max: 100, noNaN: true });
    fc.assert(
      fc.property(
        fc.tuple(coordinate, coordinate),
        fc.tuple(coordinate, coordinate),
        fc.tuple(coordinate, coordinate),
        (a, b, c) => {
          const shape = boxOnEdge(a, b, c);
          fc.pre(shape !== null && Math.hypot(a[0] - b[0], a[1] - b[1]) > 1);
          if (shape?.kind !== "rotated-box") throw new Error("it is another shape");
          const corners = rotatedBoxCorners(shape);
          const nearest = ([x, y]: readonly number[]) =>
            Math.min(
              ...[0, 2, 4, 6].map((i) =>
                Math.hypot((corners[i] as number) - (x as number), (corners[i + 1] as number) - (y as number)),
              ),
            );
          expect(nearest(a)).toBeLessThan(1e-6);
          expect(nearest(b)).toBeLessThan(1e-6);
          const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
          const away = Math.abs(dx * (c[1] - a[1]) - dy * (c[0] - a[0])) / Math.hypot(dx, dy);
          expect(shape.height).toBeCloseTo(away, 6);
        },
      ),
    );
    expect(boxOnEdge([1, 1], [1, 1], [5, 5])).toBeNull();
  });
  it("a polygon or line by points, closed at its first, and none of too few", () => {
    const path = [0, 0, 10, 0, 10, 10];
    expect(withPoint(path, [10, 10])).toEqual(path);
    expect(withFreehandPoint(path, [11, 10], 3)).toEqual(path);
    expect(withFreehandPoint(path, [14, 10], 3)).toEqual([...path, 14, 10]);
    expect(closesRing(path, [1, 1], 2)).toBe(true);
    expect(closesRing([0, 0, 10, 0], [0, 0], 2)).toBe(false);
    expect(shapeOfPath("polygon", [0, 0, 10, 0])).toBeNull();
    expect(shapeOfPath("line", [0, 0, 10, 0])).toEqual({ kind: "line", points: [0, 0, 10, 0] });
  });
  it("keypoints one after the other: seen, hidden, not there; those not come to are not there", () => {
    let points = withKeypoint([], [3, 4], false);
    points = withKeypoint(withKeypoint(points, [5, 6], true), null, false);
    expect(shapeOfKeypoints(points, 4)).toEqual({
      kind: "keypoints",
      points: [
        { x: 3, y: 4, v: 2 },
        { x: 5, y: 6, v: 1 },
        { x: 0, y: 0, v: 0 },
        { x: 0, y: 0, v: 0 },
      ],
    });
    expect(shapeOfKeypoints(withKeypoint([], null, false), 2)).toBeNull();
  });
  it("tells what is too small to be meant", () => {
    expect(isAccident({ kind: "box", x: 0, y: 0, width: 30, height: 1 }, 2)).toBe(true);
    expect(isAccident({ kind: "polygon", parts: [[[0, 0, 30, 0, 15, 1]]] }, 2)).toBe(true);
    expect(isAccident({ kind: "line", points: [0, 0, 1, 1] }, 2)).toBe(true);
    expect(isAccident({ kind: "line", points: [0, 0, 1, 9] }, 2)).toBe(false);
  });
});

describe("snapping", () => {
  const outline = { points: [10, 10, 50, 10, 50, 50, 10, 50], closed: true };
  const size = { width: 100, height: 80 };
  it("goes to a corner before an edge before the border, within reach alone", () => {
    expect(snapPoint(12, 11, [outline], size, 4)).toMatchObject({ x: 10, y: 10, to: "corner" });
    expect(snapPoint(30, 12, [outline], size, 4)).toMatchObject({ x: 30, y: 10, to: "edge" });
    expect(snapPoint(97, 78, [outline], size, 4)).toMatchObject({ x: 100, y: 80, to: "border" });
    expect(snapPoint(70, 40, [outline], size, 4)).toEqual({ x: 70, y: 40, to: null });
  });
  it("takes over what lies between two places of an outline, the shorter way, in either direction", () => {
    const at = (x: number, y: number) => snapPoint(x, y, [outline], size, 4).on;
    const [top, right, bottom] = [at(30, 10), at(50, 30), at(30, 50)];
    if (!top || !right || !bottom) throw new Error("they are on the outline");
    expect(sharedEdge(outline, top, right)).toEqual([50, 10]);
    expect(sharedEdge(outline, right, top)).toEqual([50, 10]);
    expect(sharedEdge(outline, top, { ...bottom, along: 0.4 })).toEqual([50, 10, 50, 50]);
    const line = { points: [0, 0, 10, 0, 20, 0, 30, 0], closed: false };
    const [first, last] = [
      { distance: 0, segment: 0, along: 0.5 },
      { distance: 0, segment: 2, along: 0.5 },
    ];
    expect(sharedEdge(line, first, last)).toEqual([10, 0, 20, 0]);
    expect(sharedEdge(line, last, first)).toEqual([20, 0, 10, 0]);
  });
});

describe("a traced path", () => {
  const [width, height] = [90, 70];
  /** Dark within a disc, light outside. */
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const level = Math.hypot(x + 0.5 - 45, y + 0.5 - 35) < 25 ? 60 : 200;
      rgba.set([level, level, level, 255], 4 * (y * width + x));
    }
  const costs = edgeCosts(greyOf(rgba), width, height);
  it("follows the rim of a disc between two of its places, where a straight way would cut across", () => {
    const field = new TraceField(costs, [45, 10], 60);
    const path = field.pathTo(70.5, 35.5);
    if (!path) throw new Error("there is a way");
    expect([path[0], path[1], path.at(-2), path.at(-1)]).toEqual([45.5, 10.5, 70.5, 35.5]);
    for (let i = 0; i < path.length; i += 2) {
      const radius = Math.hypot((path[i] as number) - 45, (path[i + 1] as number) - 35);
      expect(Math.abs(radius - 25)).toBeLessThan(2);
    }
  });
  it("is none outside of its reach, and the same whatever was asked before", () => {
    const field = new TraceField(costs, [45, 35], 5);
    expect(field.pathTo(60, 35)).toBeNull();
    expect(field.pathTo(45, 35)).toEqual([45.5, 35.5]);
    // Asked again, or for another place first, it is the same way.
    const near = field.pathTo(48, 37);
    const other = new TraceField(costs, [45, 35], 5);
    other.pathTo(41, 31);
    expect(other.pathTo(48, 37)).toEqual(near);
  });
});
