import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { patternTest } from "./pattern";

/** The same by a regular expression. */
const expression = (pattern: string) =>
  new RegExp(
    `^${[...pattern.toLowerCase()]
      .map((sign) => (sign === "*" ? ".*" : sign === "?" ? "." : sign.replace(/[\\^$.|+()[\]{}]/g, "\\$&")))
      .join("")}$`,
    "su",
  );

describe("a pattern", () => {
  it.each([
    ["*_3*", "racks/rack_31.jpg", true],
    ["*_3*", "racks/rack_13.jpg", false],
    ["RACK*.jpg", "rack_1.JPG", true],
    ["ab*ba", "aba", false],
    ["ab*ba", "abba", true],
    ["a*b*a", "aba", true],
    ["*ana*ana*", "banana", false],
    ["*ana*ana*", "bananana", true],
    ["r?ll", "r\u{1f956}ll", true],
    ["**", "", true],
    ["", "", true],
    ["", "a", false],
  ])("%s on %s: %s", (pattern, text, matches) => {
    expect(patternTest(pattern)(text)).toBe(matches);
  });
  it("matches what a regular expression of the same meaning matches", () => {
    const few = (signs: string[], most: number) =>
      fc.array(fc.constantFrom(...signs), { maxLength: most }).map((all) => all.join(""));
    fc.assert(
      fc.property(few(["a", "b", "B", ".", "*", "*", "?"], 7), few(["a", "b", "A", "."], 10), (pattern, text) => {
        expect(patternTest(pattern)(text)).toBe(expression(pattern).test(text.toLowerCase()));
      }),
      { numRuns: 2000 },
    );
  });
});
