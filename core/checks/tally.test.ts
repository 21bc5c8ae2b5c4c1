import { describe, expect, it } from "vitest";
import { lightStock, type StockRow } from "../stock/light-stock";
import { tallyClasses } from "./tally";

describe("tallies of classes", () => {
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
});
