import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { mirrorOrder, pairsByName, pairsOf, pairsOfOrder } from "./keypoint-pairs";

describe("pairs of keypoints", () => {
  it.each([
    [["left loop", "right loop", "crossing", "Left end", "Right end"], [[0, 1], [3, 4]]], // prettier-ignore
    [["l_eye", "r_eye", "nose"], [[0, 1]]], // prettier-ignore
    [["eye_l", "eye_r"], [[0, 1]]], // prettier-ignore
    [["LEye", "nose", "REye"], [[0, 2]]], // prettier-ignore
    [["eyeL", "eyeR"], [[0, 1]]], // prettier-ignore
    [["R", "L"], [[0, 1]]], // prettier-ignore
    [["eye.right", "eye.left"], [[0, 1]]], // prettier-ignore
    [["RIGHT_HIP", "LEFT_HIP"], [[0, 1]]], // prettier-ignore
    [["nose", "tail", "large", "lower"], []],
    [["left only"], []],
    [["point_1", "point_2"], []],
  ])("are told by the names %j", (names, pairs) => {
    expect(pairsByName(names)).toEqual(pairs);
  });
  it("that were given count before those the names tell", () => {
    const info = { keypoints: ["left a", "right a", "b"], pairs: [[0, 2]] as [number, number][] };
    expect(pairsOf(info)).toEqual([[0, 2]]);
    expect(mirrorOrder(info)).toEqual([2, 1, 0]);
  });
  it("leave out what an order says of points that are not there or do not agree", () => {
    expect(pairsOfOrder([1, 0, 2], 3)).toEqual([[0, 1]]);
    expect(pairsOfOrder([1, 2, 0, 9], 4)).toEqual([]);
    expect(pairsOfOrder([1, 0], 1)).toEqual([]);
  });
  it("are the same pairs again out of the order they make", () => {
    fc.assert(
      fc.property(fc.shuffledSubarray([0, 1, 2, 3, 4, 5, 6, 7], { minLength: 0 }), (points) => {
        const pairs = Array.from({ length: Math.floor(points.length / 2) }, (_, n): [number, number] => {
          const [a, b] = [points[2 * n] as number, points[2 * n + 1] as number];
          return a < b ? [a, b] : [b, a];
        }).sort(([a], [b]) => a - b);
        const keypoints = Array.from({ length: 8 }, (_, n) => `p${n}`);
        expect(pairsOfOrder(mirrorOrder({ keypoints, pairs }), 8)).toEqual(pairs);
      }),
    );
  });
});
