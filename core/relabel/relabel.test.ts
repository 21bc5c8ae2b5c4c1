import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkBalance, tallyClasses } from "../checks/balance";
import { lightStock, type StockRow } from "../stock/light-stock";
import { classCode } from "./class-code";
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

describe("classCode", () => {
  it("is short, legible and unique", () => {
    expect(classCode("loaf", new Set())).toBe("LF");
    expect(classCode("bread roll", new Set())).toBe("BR");
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1, maxLength: 40 }), { maxLength: 60 }), (names) => {
        const codes = new Set<string>();
        for (const name of names) {
          const code = classCode(name, codes);
          expect(codes.has(code)).toBe(false);
          expect(code.length).toBeGreaterThanOrEqual(2);
          codes.add(code);
        }
      }),
    );
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
