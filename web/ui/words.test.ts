import { describe, expect, it } from "vitest";
import { bytes, count, duration, number } from "./words";

describe("words", () => {
  it("say numbers with separators and the right form", () => {
    expect(number(1234567)).toBe("1,234,567");
    expect([count(0, "image"), count(1, "image"), count(1204, "image"), count(2, "class", "classes")]).toEqual([
      "0 images",
      "1 image",
      "1,204 images",
      "2 classes",
    ]);
  });
  it("say sizes in the unit that fits", () => {
    expect([0, 999, 1000, 38_312_000, 214_000_000, 1.4e9].map(bytes)).toEqual([
      "0 bytes",
      "999 bytes",
      "1.0 kB",
      "38.3 MB",
      "214 MB",
      "1.4 GB",
    ]);
  });
  it("say times roughly, and nothing where there is none", () => {
    expect([0.2, 42, 89, 300, 7200].map(duration)).toEqual(["under a second", "42 s", "89 s", "5 min", "2.0 h"]);
    expect([Infinity, NaN, -1].map(duration)).toEqual(["", "", ""]);
  });
});
