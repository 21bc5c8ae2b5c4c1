import fc from "fast-check";
import { expect, it } from "vitest";
import type { Split } from "../model/item";
import { leaksBetween } from "./leaks";

it("counts images of val and test that have a near-copy in an earlier split, each once", () => {
  // Places in the stock: 10 … 15, of which 14 is in no split and 15 not dealt at all.
  const splits: (Split | null)[] = ["train", "val", "val", "test", null];
  const near = new Map([
    [11, [10, 14, 15]],
    [12, [11]],
    [13, [10, 12, 10]],
    [14, [10]],
  ]);
  const leaks = leaksBetween(splits, [10, 11, 12, 13, 14], { nearCopies: (n) => near.get(n) ?? [] });
  expect(leaks).toEqual([
    { split: "val", from: "train", images: 1 },
    { split: "test", from: "train", images: 1 },
    { split: "test", from: "val", images: 1 },
  ]);
});

it("finds none where near-copies lie in one split, and as many as a count pair by pair", () => {
  const split = fc.constantFrom<Split>("train", "val", "test");
  fc.assert(
    fc.property(
      fc.array(split, { maxLength: 12 }),
      fc.array(fc.tuple(fc.nat(11), fc.nat(11)), { maxLength: 20 }),
      (splits, pairs) => {
        const nearCopies = (n: number) => pairs.flatMap(([a, b]) => (a === n ? [b] : b === n ? [a] : []));
        const origins = splits.map((_, n) => n);
        const order = ["train", "val", "test"];
        const leaks = leaksBetween(splits, origins, { nearCopies });
        for (const of of ["val", "test"] as const)
          for (const from of ["train", "val"] as const) {
            const expected = splits.filter(
              (own, n) =>
                own === of &&
                order.indexOf(from) < order.indexOf(of) &&
                splits.some(
                  (other, m) => other === from && pairs.some(([a, b]) => (a === n && b === m) || (a === m && b === n)),
                ),
            ).length;
            expect(leaks.find((leak) => leak.split === of && leak.from === from)?.images ?? 0).toBe(expected);
          }
      },
    ),
  );
});
