import fc from "fast-check";
import { expect, it } from "vitest";
import { nextAbove } from "./next-above";

it("gives the double that follows, by values of IEEE 754", () => {
  expect(nextAbove(1)).toBe(1 + Number.EPSILON);
  expect(nextAbove(-1)).toBe(-1 + Number.EPSILON / 2);
  expect([nextAbove(0), nextAbove(-0)]).toEqual([5e-324, 5e-324]);
  expect(nextAbove(-5e-324)).toBe(-0);
  expect(nextAbove(Number.MAX_VALUE)).toBe(Number.POSITIVE_INFINITY);
  expect(nextAbove(Number.NEGATIVE_INFINITY)).toBe(-Number.MAX_VALUE);
  expect(nextAbove(Number.POSITIVE_INFINITY)).toBeNaN();
  expect(nextAbove(Number.NaN)).toBeNaN();
});

it("lies above, with nothing between", () => {
  fc.assert(
    fc.property(fc.double({ noNaN: true, min: -1e300, max: 1e300 }), (number) => {
      const next = nextAbove(number);
      expect(next).toBeGreaterThan(number);
      // A double between them would be what their mean is rounded to.
      expect([number, next]).toContain((number + next) / 2 || 0);
    }),
  );
});
