import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { storableJson, storableText } from "./storable";

const odd = fc
  .array(
    fc.constantFrom("\u0000", "\\", "\\u0000", "\\ud800", "\ud800", "\udc00", "\ud83c\udf5e", "u0000", '"', "ä", "a"),
  )
  .map((parts) => parts.join(""));

/** A value with its texts made storable one by one: what taking escapes out of its JSON has to come to. */
function eachStorable(value: unknown): unknown {
  if (typeof value === "string") return storableText(value);
  if (Array.isArray(value)) return value.map(eachStorable);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, entry]) => [storableText(key), eachStorable(entry)]));
}

describe("what is sent to the database", () => {
  it("holds no NUL and no half of a pair, and all else as it was", () => {
    expect(storableText("a\u0000b\ud800c")).toBe("ab\ufffdc");
    expect(storableText("\\u0000 🍞")).toBe("\\u0000 🍞");
    expect(JSON.parse(storableJson(JSON.stringify(["\\u0000", "\u0000", "\ud800🍞"])))).toEqual([
      "\\u0000",
      "",
      "\ufffd🍞",
    ]);
  });
  it("is the same as JSON and text by text", () => {
    const value = fc.oneof(
      odd,
      fc.array(odd),
      fc.tuple(odd, odd).map(([key, text]) => ({ [`k${key}`]: [text, 1, null] })),
    );
    fc.assert(
      fc.property(value, (given) => {
        expect(JSON.parse(storableJson(JSON.stringify(given)))).toEqual(eachStorable(given));
      }),
    );
  });
});
