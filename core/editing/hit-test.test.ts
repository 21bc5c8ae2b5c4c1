import { describe, expect, it } from "vitest";
import type { Shape } from "../model/shape";
import { polygonToMask } from "../geometry/rasterise";
import { holdsPoint, objectAt, objectsWithin } from "./hit-test";

const box = (x: number, y: number, width: number, height: number): Shape => ({ kind: "box", x, y, width, height });
const ring: Shape = {
  kind: "polygon",
  parts: [
    [
      [0, 0, 100, 0, 100, 100, 0, 100],
      [40, 40, 60, 40, 60, 60, 40, 60],
    ],
  ],
};

describe("the object under the pointer", () => {
  const objects = [
    { uid: "small", shape: box(30, 30, 10, 10) },
    { uid: "large", shape: box(10, 10, 80, 80) },
    { uid: "line", shape: { kind: "line", points: [0, 95, 100, 95] } as Shape },
  ];
  it("is the one whose line is near, topmost first; else the smallest around the pointer, also under a larger one", () => {
    expect(objectAt(objects, 35, 35, 2)?.uid).toBe("small");
    expect(objectAt(objects, 60, 60, 2)?.uid).toBe("large");
    expect(objectAt(objects, 50, 94, 2)?.uid).toBe("line");
    expect(objectAt(objects, 11, 50, 2)?.uid).toBe("large");
    expect(objectAt([...objects, { uid: "top", shape: box(10, 10, 30, 30) }], 11, 20, 2)?.uid).toBe("top");
    expect(objectAt(objects, 5, 5, 2)).toBeNull();
  });
  it("is not where a polygon has a hole, nor beside a mask's pixels", () => {
    expect(holdsPoint(ring, 50, 50)).toBe(false);
    expect(holdsPoint(ring, 20, 50)).toBe(true);
    const mask: Shape = {
      kind: "mask",
      width: 120,
      height: 110,
      counts: polygonToMask(ring.kind === "polygon" ? ring.parts : [], 120, 110),
    };
    for (const [x, y] of [
      [50, 50],
      [20, 50],
      [99.9, 99.9],
      [100.1, 50],
      [-1, 5],
      [119, 109],
    ] as const)
      expect(holdsPoint(mask, x, y)).toBe(holdsPoint(ring, x, y));
  });
  it("is found by a keypoint, and not by one that is not there", () => {
    const shape: Shape = {
      kind: "keypoints",
      points: [
        { x: 10, y: 10, v: 2 },
        { x: 50, y: 50, v: 0 },
      ],
    };
    expect(objectAt([{ uid: "k", shape }], 11, 10, 2)?.uid).toBe("k");
    expect(objectAt([{ uid: "k", shape }], 50, 50, 2)).toBeNull();
  });
  it("is caught by a frame only where it lies wholly within", () => {
    expect(objectsWithin(objects, { x: 5, y: 5, width: 90, height: 86 }).map(({ uid }) => uid)).toEqual([
      "small",
      "large",
    ]);
    expect(objectsWithin(objects, { x: 20, y: 5, width: 90, height: 86 }).map(({ uid }) => uid)).toEqual(["small"]);
  });
});
