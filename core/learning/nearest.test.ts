import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { featureLength } from "./features";
import { nearestNeighbours } from "./nearest";

/** Features whose first bytes are given, the rest 0. */
function features(rows: readonly (readonly number[])[]): { bytes: Uint8Array; places: number[] } {
  const bytes = new Uint8Array(rows.length * featureLength);
  rows.forEach((row, n) => bytes.set(row, n * featureLength));
  return { bytes, places: rows.map((_, n) => n * featureLength) };
}

describe("nearest neighbours", () => {
  it("are those that comparing all of them finds, nearest first", () => {
    const row = fc.array(fc.nat(255), { minLength: 3, maxLength: 3 });
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 20 }), (rows) => {
        const { bytes, places } = features(rows);
        const found = nearestNeighbours(bytes, places, 4);
        const away = (a: number, b: number) =>
          (rows[a] as number[]).reduce((sum, value, n) => sum + (value - (rows[b]?.[n] ?? 0)) ** 2, 0);
        for (let item = 0; item < rows.length; item++) {
          const wanted = rows.map((_, other) => other).filter((other) => other !== item);
          wanted.sort((a, b) => away(item, a) - away(item, b));
          const distances = wanted.slice(0, 4).map((other) => away(item, other));
          const got = Array.from(found.subarray(item * 4, item * 4 + 4)).filter((other) => other >= 0);
          expect(got.map((other) => away(item, other))).toEqual(distances);
          expect(got).not.toContain(item);
        }
      }),
      { numRuns: 60 },
    );
  });

  it.each([
    ["eight groups of 600", 8, 200, 30],
    ["three hundred groups of 16, spread so that they run into each other", 300, 255, 200],
  ])("are nearly all found among many: %s", (_, groups, apart, away) => {
    let state = 7;
    const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    const centres = Array.from({ length: groups }, () => Array.from({ length: 24 }, () => random() * apart));
    const rows = Array.from({ length: 4800 }, (_, n) =>
      (centres[n % groups] as number[]).map((value) =>
        Math.min(255, Math.max(0, Math.round(value + (random() - 0.5) * away))),
      ),
    );
    const { bytes, places } = features(rows);
    const [sample, k] = [60, 5];
    const found = nearestNeighbours(bytes, places, k);
    let [hits, all] = [0, 0];
    for (let n = 0; n < sample; n++) {
      const item = n * 80;
      const away = rows.map((row) => row.reduce((sum, value, m) => sum + (value - (rows[item]?.[m] ?? 0)) ** 2, 0));
      away[item] = Infinity;
      // Those at the same distance are as good as each other.
      const farthest = [...away].sort((a, b) => a - b)[k - 1] as number;
      for (const other of found.subarray(item * k, item * k + k)) if ((away[other] ?? Infinity) <= farthest) hits++;
      all += k;
    }
    expect(hits / all).toBeGreaterThanOrEqual(0.98);
  });
});
