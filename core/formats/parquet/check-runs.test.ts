import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bitsFor, checkRuns } from "./check-runs";

/** A number as LEB128, seven bits a byte, lowest first. */
function varint(value: number): number[] {
  const bytes: number[] = [];
  for (let rest = value; ; rest = Math.floor(rest / 128)) {
    if (rest < 128) return [...bytes, rest];
    bytes.push((rest % 128) + 128);
  }
}

const repeated = (count: number, width: number) => [
  ...varint(count * 2),
  ...Array.from({ length: Math.ceil(width / 8) }, () => 1),
];
const packed = (groups: number, width: number) => [
  ...varint(groups * 2 + 1),
  ...Array.from({ length: groups * width }, () => 0),
];

describe("bitsFor", () => {
  it("is the width of the largest number", () => {
    expect([0, 1, 2, 3, 4, 255, 256].map(bitsFor)).toEqual([0, 1, 2, 2, 3, 8, 9]);
  });
});

describe("checkRuns", () => {
  it("follows the published layout: a count and one value, or groups of eight packed values", () => {
    expect(checkRuns(Uint8Array.from(repeated(100, 3)), 0, 3, 100)).toBe(3);
    expect(checkRuns(Uint8Array.from(packed(2, 3)), 0, 3, 16)).toBe(7);
    expect(checkRuns(Uint8Array.from([9, 9, ...repeated(5, 9)]), 2, 9, 5)).toBe(5);
  });
  it("finds the end of any runs that hold as many values as they say", () => {
    const run = fc.oneof(
      fc.tuple(fc.constant("repeated" as const), fc.integer({ min: 1, max: 5000 })),
      fc.tuple(fc.constant("packed" as const), fc.integer({ min: 1, max: 60 })),
    );
    fc.assert(
      fc.property(fc.array(run, { minLength: 1, maxLength: 8 }), fc.integer({ min: 1, max: 20 }), (runs, width) => {
        const bytes = Uint8Array.from(
          runs.flatMap(([kind, size]) => (kind === "repeated" ? repeated(size, width) : packed(size, width))),
        );
        const count = runs.reduce((sum, [kind, size]) => sum + (kind === "repeated" ? size : size * 8), 0);
        expect(checkRuns(bytes, 0, width, count)).toBe(bytes.length);
      }),
    );
  });
  it("refuses a run of far more values than the page has, and one that is cut off", () => {
    expect(() => checkRuns(Uint8Array.from(repeated(1_000_000, 1)), 0, 1, 100)).toThrow(/more values/);
    expect(() => checkRuns(Uint8Array.from(packed(500_000, 0)), 0, 0, 100)).toThrow(/more values/);
    expect(() => checkRuns(Uint8Array.from([0xff, 0xff]), 0, 1, 10)).toThrow(/cut off/);
    expect(() => checkRuns(Uint8Array.from([0xff, 0xff, 0xff, 0xff, 0xff, 0xff]), 0, 1, 10)).toThrow();
    expect(() => checkRuns(new Uint8Array(0), 0, 1, 1)).toThrow(/cut off/);
  });
});
