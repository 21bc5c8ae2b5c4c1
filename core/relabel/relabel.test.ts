import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkBalance, tallyClasses } from "../checks/balance";
import { lightStock, type StockRow } from "../stock/light-stock";
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

describe("checkBalance", () => {
  const row = (n: number, split: StockRow["split"], objects: Record<string, number>): StockRow => ({
    key: String(n),
    delivery: 1,
    split,
    state: Object.keys(objects).length > 0 ? "labeled" : "unlabeled",
    objects: new Map(Object.entries(objects)),
    classes: [],
  });
  const rows = [
    ...Array.from({ length: 40 }, (_, i) => row(i, "train", { roll: 9 })),
    row(40, "train", { tart: 2 }),
    row(41, "val", { roll: 3 }),
    row(42, null, {}),
  ];
  it("counts classes a split, by hand", () => {
    expect(tallyClasses(lightStock(rows), ["roll", "tart", "bun"])).toEqual([
      { name: "roll", images: 41, objects: 363, bySplit: { train: 360, val: 3, test: 0, none: 0 } },
      { name: "tart", images: 1, objects: 2, bySplit: { train: 2, val: 0, test: 0, none: 0 } },
      { name: "bun", images: 0, objects: 0, bySplit: { train: 0, val: 0, test: 0, none: 0 } },
    ]);
  });
  it("says what is rare, missing, uneven and left over", () => {
    expect(checkBalance(lightStock(rows), ["roll", "tart", "bun"]).map(({ code, message }) => [code, message])).toEqual(
      [
        ["class-rare", "tart has only 2 examples, on 1 image."],
        ["class-lacks-split", "val holds no tart."],
        ["split-small", "val holds 1 image, less than 5% of what has a split."],
        ["classes-uneven", "There are 182 times as many roll as tart."],
        ["class-unused", "Nothing in stock is labeled bun."],
        ["unlabeled-left", "1 image waits for a label."],
      ],
    );
  });
});
