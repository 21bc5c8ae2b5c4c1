import { describe, expect, it } from "vitest";
import { byteRange } from "./byte-range";

describe("byteRange", () => {
  it("reads the forms of RFC 9110", () => {
    expect(byteRange("bytes=0-499", 1000)).toEqual({ start: 0, end: 499 });
    expect(byteRange("bytes=500-", 1000)).toEqual({ start: 500, end: 999 });
    expect(byteRange("bytes=-200", 1000)).toEqual({ start: 800, end: 999 });
    expect(byteRange("bytes=900-5000", 1000)).toEqual({ start: 900, end: 999 });
    expect(byteRange("bytes=-5000", 1000)).toEqual({ start: 0, end: 999 });
  });
  it("answers whole what it does not understand, and says what cannot be", () => {
    for (const header of [null, "", "bytes=", "bytes=-", "lines=1-2", "bytes=1-2,4-5", "bytes=5-2"])
      expect(byteRange(header, 1000)).toBeNull();
    expect(byteRange("bytes=1000-", 1000)).toBe("unsatisfiable");
    expect(byteRange("bytes=-0", 1000)).toBe("unsatisfiable");
  });
});
