import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { plainDecimals } from "./decimals";

describe("plain decimals", () => {
  it("come out to the last bit as the language reads them", () => {
    const word = fc.oneof(
      fc
        .tuple(fc.constantFrom("", "-"), fc.integer({ min: 0, max: 99_999 }), fc.stringMatching(/^[0-9]{0,10}$/))
        .map(([sign, whole, decimals]) => `${sign}${whole}.${decimals}`),
      fc.constantFrom("0", "-0", ".5", "5.", "007", "123456789012345", "0.00000000000001"),
    );
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 1, maxLength: 8 }),
        (words) => void expect(plainDecimals(words.join(" "))).toEqual(words.map(Number)),
      ),
    );
  });
  it("leave every other line to be read otherwise", () => {
    for (const line of [
      "1  2",
      " 1",
      "1e5",
      "1\t2",
      "nan",
      "-",
      ".",
      "1.2.3",
      "1-2",
      "1,2",
      "1234567890123456",
      "0.1234567890123456",
      "+1",
      "1\r",
    ])
      expect(plainDecimals(line), line).toBeNull();
    expect(plainDecimals("")).toEqual([]);
    expect(plainDecimals("3 0.5 ")).toEqual([3, 0.5]);
  });
});
