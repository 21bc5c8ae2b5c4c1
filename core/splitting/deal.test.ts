import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { splitNames, type Split } from "../model/item";
import { apportion } from "./apportion";
import { deal, type Dealt, type Shares } from "./deal";

const image = (key: string, classes: Record<string, number> = {}): Dealt => ({
  key,
  classes: new Map(Object.entries(classes)),
});
const sizes = (assigned: Map<string, Split>) =>
  splitNames.map((split) => [...assigned.values()].filter((value) => value === split).length);
const seventy: Shares = { train: 70, val: 20, test: 10 };

describe("deal", () => {
  it("makes 1/1/1 of three images", () => {
    expect(sizes(deal([image("a"), image("b"), image("c")], seventy, 1))).toEqual([1, 1, 1]);
  });
  it("spreads two classes of ten in proportion, by hand: 7/2/1 of each", () => {
    const images = [
      ...Array.from({ length: 10 }, (_, i) => image(`loaf${i}`, { loaf: 1 })),
      ...Array.from({ length: 10 }, (_, i) => image(`tart${i}`, { tart: 1 })),
    ];
    const assigned = deal(images, seventy, 5);
    for (const name of ["loaf", "tart"]) {
      expect(
        splitNames.map(
          (split) => images.filter(({ key, classes }) => classes.has(name) && assigned.get(key) === split).length,
        ),
      ).toEqual([7, 2, 1]);
    }
  });
  it("gives each split one of a class that has only three images", () => {
    const images = [
      ...Array.from({ length: 27 }, (_, i) => image(`r${i}`, { roll: 2 })),
      ...["x", "y", "z"].map((key) => image(key, { tart: 1, roll: 1 })),
    ];
    const assigned = deal(images, { train: 34, val: 33, test: 33 }, 9);
    expect(new Set(["x", "y", "z"].map((key) => assigned.get(key))).size).toBe(3);
  });

  const stock = fc
    .uniqueArray(
      fc.record({ key: fc.stringMatching(/^[0-9a-f]{8}$/), classes: fc.subarray(["loaf", "roll", "tart", "pretzel"]) }),
      { selector: ({ key }) => key, maxLength: 80 },
    )
    .map((rows) => rows.map(({ key, classes }) => image(key, Object.fromEntries(classes.map((name) => [name, 1])))));
  const shares = fc
    .record({ train: fc.nat(100), val: fc.nat(100), test: fc.nat(100) })
    .filter(({ train, val, test }) => train + val + test > 0);

  it("deals every image once, in the apportioned sizes, whatever the order, the same for the same seed", () => {
    fc.assert(
      fc.property(stock, shares, fc.nat(1000), (images, ratio, seed) => {
        const assigned = deal(images, ratio, seed);
        expect([...assigned.keys()].sort()).toEqual(images.map(({ key }) => key).sort());
        const asked = splitNames.filter((split) => ratio[split] > 0);
        const wanted = apportion(
          images.length,
          asked.map((split) => ratio[split]),
        );
        expect(sizes(assigned)).toEqual(
          splitNames.map((split) => (asked.includes(split) ? wanted[asked.indexOf(split)] : 0)),
        );
        const again = deal([...images].reverse(), ratio, seed);
        expect(new Map([...again].sort())).toEqual(new Map([...assigned].sort()));
      }),
      { numRuns: 80 },
    );
  });
  it("deals otherwise for another seed", () => {
    const images = Array.from({ length: 40 }, (_, i) => image(`i${i}`));
    expect(deal(images, seventy, 1)).not.toEqual(deal(images, seventy, 2));
  });
});
