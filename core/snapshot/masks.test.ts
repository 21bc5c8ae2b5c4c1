import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { combine, invert, numbersMask } from "./masks";

const marks = fc
  .array(fc.tuple(fc.boolean(), fc.boolean(), fc.boolean()), { maxLength: 21 })
  .map((rows) => [0, 1, 2].map((n) => Uint8Array.from(rows, (row) => (row[n] ? 1 : 0))));

describe("masks", () => {
  it("are put together and turned around mark by mark, however many there are", () => {
    fc.assert(
      fc.property(marks, (masks) => {
        const length = masks[0]?.length ?? 0;
        const rows = Array.from({ length }, (_, at) => masks.map((mask) => mask[at] as number));
        const copies = () => masks.map((mask) => mask.slice());
        expect([...combine("and", copies(), length)]).toEqual(
          rows.map((row) => Number(row.every((mark) => mark === 1))),
        );
        expect([...combine("or", copies(), length)]).toEqual(rows.map((row) => Number(row.includes(1))));
        expect([...invert((copies()[0] as Uint8Array).slice())]).toEqual(rows.map((row) => 1 - (row[0] as number)));
      }),
    );
  });
  it("of all and of any of nothing mark everything and nothing", () => {
    expect([combine("and", [], 3), combine("or", [], 3)].map((mask) => [...mask])).toEqual([
      [1, 1, 1],
      [0, 0, 0],
    ]);
  });
  it("mark numbers that lie in one of several intervals, and of the unset what != does", () => {
    const interval = (low: number, high: number) => ({ low, lowOpen: false, high, highOpen: true });
    const criterion = { texts: new Set<string>(), pattern: null, dates: [], truths: [] };
    const test = (negated: boolean) => ({
      ...{ kind: "compare" as const, field: { field: "width" } },
      criterion: { ...criterion, negated, numbers: [interval(1, 2), interval(5, 9)] },
    });
    const values = Float32Array.of(0, 1, 2, Number.NaN, 5, 8.5, 9);
    expect([...numbersMask(values, test(false))]).toEqual([0, 1, 0, 0, 1, 1, 0]);
    expect([...numbersMask(values, test(true))]).toEqual([1, 0, 1, 1, 0, 0, 1]);
  });
});
