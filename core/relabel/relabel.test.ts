import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ClassCodes } from "./class-code";
import { bareName, lookAlikes } from "./look-alike";

describe("lookAlikes", () => {
  it("finds names that differ in case, space, punctuation or plural only", () => {
    expect(
      lookAlikes(["Croissant", "roll", "croissants", "bread-roll", "Bread roll", "berries", "berry", "glass"]),
    ).toEqual([
      ["Croissant", "croissants"],
      ["bread-roll", "Bread roll"],
      ["berries", "berry"],
    ]);
    expect(bareName("glass")).toBe("glass");
  });
});

describe("class codes", () => {
  it("are short, legible and unique", () => {
    expect(new ClassCodes().take("loaf")).toBe("LF");
    expect(new ClassCodes().take("bread roll")).toBe("BR");
    expect(new ClassCodes(["BR"]).take("bread roll")).toBe("BD");
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1, maxLength: 40 }), { maxLength: 60 }), (names) => {
        const codes = new ClassCodes();
        const given = names.map((name) => codes.take(name));
        expect(new Set(given).size).toBe(names.length);
        expect(given.every((code) => code.length >= 2)).toBe(true);
      }),
    );
  });
  it("of twenty thousand names alike are numbered without counting from one each time", () => {
    const codes = new ClassCodes();
    const given = Array.from({ length: 20_000 }, () => codes.take("x"));
    expect([given[0], given.at(-1), new Set(given).size]).toEqual(["X1", "X20000", 20_000]);
  });
});
