import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { apportion } from "./apportion";
import { uniform } from "../model/seeded";

describe("apportion", () => {
  it("gives by the largest remainder, by hand", () => {
    // 10 × 0.7, 0.2, 0.1 come out even; 23 × 0.7, 0.2, 0.1 are 16.1, 4.6, 2.3, and the one left goes to 0.6.
    expect(apportion(10, [70, 20, 10])).toEqual([7, 2, 1]);
    // 7 × 0.7 = 4.9, 1.4, 0.7: the remainders 0.9 and 0.7 win.
    expect(apportion(7, [70, 20, 10])).toEqual([5, 1, 1]);
    expect(apportion(23, [70, 20, 10])).toEqual([16, 5, 2]);
    // Thirds of 10: the first of equal remainders takes what is left.
    expect(apportion(10, [1, 1, 1])).toEqual([4, 3, 3]);
    expect(apportion(5, [1, 0, 0])).toEqual([5, 0, 0]);
  });
  it("leaves no asked share empty while there is something to give", () => {
    expect(apportion(3, [98, 1, 1])).toEqual([1, 1, 1]);
    expect(apportion(4, [98, 1, 1])).toEqual([2, 1, 1]);
    expect(apportion(2, [98, 1, 1])).toEqual([1, 1, 0]);
    expect(apportion(0, [1, 1])).toEqual([0, 0]);
    expect(apportion(5, [0, 0])).toEqual([0, 0]);
  });
  it("sums to the whole, keeps to the quota but for shares that would be empty, and gives nothing to a share of 0", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 5000 }),
        fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 1, maxLength: 5 }),
        (total, shares) => {
          const sum = shares.reduce((a, b) => a + b, 0);
          const counts = apportion(total, shares);
          expect(counts.reduce((a, b) => a + b, 0)).toBe(sum === 0 ? 0 : total);
          counts.forEach((count, n) => {
            const share = shares[n] as number;
            if (share === 0) expect(count).toBe(0);
            else if (total >= shares.length) expect(count).toBeGreaterThan(0);
            if (sum > 0) expect(Math.abs(count - (share * total) / sum)).toBeLessThan(shares.length);
          });
        },
      ),
    );
  });
});

describe("uniform", () => {
  it("is the first 48 bits of a SHA-256, worked out elsewhere", () => {
    // sha256("abc") begins ba7816bf8f01 (FIPS 180-4, example B.1).
    expect(uniform("abc")).toBe(0xba7816bf8f01 / 2 ** 48);
    expect(uniform("flip", 1, "abc", 2)).toBe(uniform("flip|1|abc|2"));
  });
  it("lies in [0, 1), evenly enough, and hangs on every word", () => {
    const drawn = Array.from({ length: 4000 }, (_, n) => uniform("draw", n));
    expect(Math.min(...drawn)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...drawn)).toBeLessThan(1);
    for (let tenth = 0; tenth < 10; tenth++) {
      const share = drawn.filter((value) => Math.floor(value * 10) === tenth).length / drawn.length;
      // Four standard deviations of a tenth of 4,000 draws are 0.019.
      expect(Math.abs(share - 0.1)).toBeLessThan(0.019);
    }
    expect(new Set([uniform("a", 1), uniform("a", 2), uniform("b", 1), uniform("a1")]).size).toBe(4);
  });
});
