import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Column } from "./column";

describe("Column", () => {
  it("holds what an array would, however it came and was cut", () => {
    const step = fc.oneof(
      fc.record({ push: fc.double({ noNaN: true }) }),
      fc.record({ all: fc.array(fc.double({ noNaN: true }), { maxLength: 3000 }) }),
      fc.record({ cut: fc.nat({ max: 4000 }) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
        const column = new Column(Float64Array);
        let plain: number[] = [];
        for (const entry of steps) {
          if ("push" in entry) {
            column.push(entry.push);
            plain.push(entry.push);
          } else if ("all" in entry) {
            column.pushAll(entry.all, entry.all.length);
            plain.push(...entry.all);
          } else {
            column.truncate(entry.cut);
            plain = plain.slice(0, entry.cut);
          }
        }
        expect(column.length).toBe(plain.length);
        expect(column.slice(0, column.length)).toEqual(plain);
        if (plain.length > 0) expect(column.at(plain.length - 1)).toBe(plain[plain.length - 1]);
      }),
      { numRuns: 60 },
    );
  });
  it("of integers takes ids up to four thousand million", () => {
    const column = new Column(Uint32Array);
    for (let n = 0; n < 3000; n++) column.push(2 ** 32 - 1 - n);
    expect([column.at(0), column.at(2999), column.length]).toEqual([4_294_967_295, 4_294_964_296, 3000]);
    expect(column.slice(5, 5)).toEqual([]);
  });
});
