import { describe, expect, it } from "vitest";
import { smallSnapshot } from "../tests/small-snapshot";
import { tallyClasses } from "./tally";

const times = (count: number, of: string) => Array.from({ length: count }, () => ({ of }));

describe("tallies of classes", () => {
  const stock = smallSnapshot(
    ["roll", "tart", "bun"],
    [
      ...Array.from({ length: 40 }, () => ({ split: "train" as const, objects: times(9, "roll") })),
      { split: "train", objects: times(2, "tart") },
      { split: "val", objects: times(3, "roll"), classes: ["roll", "tart"] },
      {},
    ],
  );
  it("count classes a split, by hand; an image-level class counts as one", () => {
    expect(
      tallyClasses(
        stock,
        Uint32Array.from({ length: 43 }, (_, slot) => slot),
      ),
    ).toEqual([
      { name: "roll", images: 41, objects: 364, bySplit: { train: 360, val: 4, test: 0, none: 0 } },
      { name: "tart", images: 2, objects: 3, bySplit: { train: 2, val: 1, test: 0, none: 0 } },
      { name: "bun", images: 0, objects: 0, bySplit: { train: 0, val: 0, test: 0, none: 0 } },
    ]);
    expect(tallyClasses(stock, Uint32Array.of(40))[1]).toMatchObject({ images: 1, objects: 2 });
  });
});
