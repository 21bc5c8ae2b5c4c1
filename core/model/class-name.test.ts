import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { keepableName, longestClassName } from "./class-name";

describe("a class name", () => {
  it.each([
    ["roll", "roll"],
    ["Brötchen 🍞", "Brötchen 🍞"],
    ["\\u0000", "\\u0000"],
    ["rye\u0000bread", "rye bread"],
    ["rye\r\n\tbread\u007f", "rye bread"],
    ["\ud83c", "\ufffd"],
    ["  roll ", "roll"],
    ["\u0000", "unnamed"],
    ["x".repeat(200), "x".repeat(200)],
    ["🍞".repeat(200), "🍞".repeat(200)],
  ])("%j is kept as %j", (name, kept) => expect(keepableName(name)).toBe(kept));

  it("that is too long stays apart from others that begin alike", () => {
    const [one, two] = [keepableName(`${"x".repeat(5000)}1`), keepableName(`${"x".repeat(5000)}2`)];
    expect(one).toMatch(/^x{191}…[0-9a-f]{8}$/);
    expect(two).not.toBe(one);
    const bread = keepableName("🍞".repeat(300));
    expect([[...bread].length, bread.isWellFormed()]).toEqual([200, true]);
  });
  it("of millions of signs is no more work than reading it once", () => {
    expect(keepableName("x".repeat(60_000_000))).toHaveLength(200);
  });
  it("is kept the same the second time", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 300 }), (name) => {
        const kept = keepableName(name);
        expect(keepableName(kept)).toBe(kept);
        expect([...kept].length).toBeLessThanOrEqual(longestClassName);
        expect(kept).not.toMatch(/\p{Cc}/u);
      }),
    );
  });
});
