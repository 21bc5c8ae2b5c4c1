import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { stableOrder } from "./stable-order";

describe("stable order", () => {
  it("goes by key, equal ones as they were, those without one last either way", () => {
    const keys = [2, Number.NaN, -0, 0, -1.5, 2, Infinity, -Infinity];
    expect([...stableOrder(keys)]).toEqual([7, 4, 2, 3, 0, 5, 6, 1]);
    expect([...stableOrder(keys, true)]).toEqual([6, 0, 5, 2, 3, 4, 7, 1]);
    expect([...stableOrder([])]).toEqual([]);
  });
  it("is that of sorting by comparing", () => {
    const key = fc.oneof(fc.double(), fc.integer({ min: -3, max: 3 }), fc.double().map(Math.fround));
    fc.assert(
      fc.property(fc.array(key, { maxLength: 60 }), fc.boolean(), (keys, down) => {
        const known = keys.flatMap((value, item) => (Number.isNaN(value) ? [] : [item]));
        const unknown = keys.flatMap((value, item) => (Number.isNaN(value) ? [item] : []));
        known.sort((a, b) => {
          const [one, two] = [keys[a] as number, keys[b] as number];
          return one === two ? a - b : one < two === down ? 1 : -1;
        });
        expect([...stableOrder(Float64Array.from(keys), down)]).toEqual([...known, ...unknown]);
      }),
      { numRuns: 60 },
    );
  });
});
