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

  it("are nearly all found where only some groups are looked at", () => {
    // Eight groups of 600 that are spread about as many places.
    let state = 7;
    const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    const centres = Array.from({ length: 8 }, () => Array.from({ length: 24 }, () => random() * 200));
    const rows = Array.from({ length: 4800 }, (_, n) =>
      (centres[n % 8] as number[]).map((value) => Math.min(255, Math.round(value + random() * 30))),
    );
    const { bytes, places } = features(rows);
    const [sample, k] = [60, 5];
    const found = nearestNeighbours(bytes, places, k);
    let [hits, all] = [0, 0];
    for (let n = 0; n < sample; n++) {
      const item = n * 80;
      const distances = rows.map((row, other) => ({
        other,
        away: other === item ? Infinity : row.reduce((sum, value, m) => sum + (value - (rows[item]?.[m] ?? 0)) ** 2, 0),
      }));
      distances.sort((a, b) => a.away - b.away);
      const wanted = new Set(distances.slice(0, k).map(({ other }) => other));
      for (const other of found.subarray(item * k, item * k + k)) if (wanted.has(other)) hits++;
      all += k;
    }
    expect(hits / all).toBeGreaterThan(0.9);
  });
});
