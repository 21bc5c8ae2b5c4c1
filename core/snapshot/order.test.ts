import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { selectionSchema } from "../selection/chosen";
import { blankImage } from "../tests/small-snapshot";
import { matchingIds, placeAmong } from "./matching";
import { arrivalOrder, orderKeys, orderSchema } from "./order";
import { Snapshot, type SnapshotImage } from "./snapshot";

const blank: Omit<SnapshotImage, "id" | "name"> = {
  ...blankImage,
  ...{ hash: new Uint8Array(32), state: "labeled", width: 100, height: 50, bytes: 10 },
};

/** A stock of images that differ in what is given; `sure` are the confidences of their objects. */
function stockOf(images: (Partial<SnapshotImage> & { id: number; sure?: number[] })[]): Snapshot {
  const snapshot = new Snapshot();
  snapshot.classes = [{ id: 1, name: "roll", colour: 0, code: "r" }];
  snapshot.deliveries = [];
  for (const { sure = [], ...image } of images) {
    const slot = snapshot.putImage({ ...blank, name: `${image.id}.jpg`, ...image });
    for (const confidence of sure) {
      snapshot.pushObject({
        id: snapshot.objectClass.length + 1,
        ...{ classId: 1, x: 0, y: 0, width: 1, height: 1, area: 1, shape: 0, flags: 0, attributes: null },
        confidence,
      });
      snapshot.countObject(slot);
    }
  }
  return snapshot;
}

const everything = selectionSchema.parse({});
const stock = stockOf([
  { id: 1, name: "b.jpg", taken: 300, sure: [0.9, Number.NaN] },
  { id: 2, name: "a.jpg", sure: [] },
  { id: 3, name: "c.jpg", taken: 100, sure: [0.5, 0.25, 0.75] },
  { id: 4, name: "B.jpg", taken: 200, sure: [Number.NaN] },
  { id: 5, name: "a.jpg", taken: 50, present: false, sure: [0.1] },
]);
const order = (by: (typeof orderKeys)[number], down = false, seed = 1) =>
  matchingIds(stock, everything, 0, 10, orderSchema.parse({ by, down, seed }));

describe("the orders of a stock", () => {
  it("go by new names once some have changed", () => {
    const stock = stockOf([{ id: 1 }, { id: 2 }, { id: 3 }]);
    const byName = () => matchingIds(stock, everything, 0, 9, orderSchema.parse({ by: "name" }));
    expect(byName()).toEqual([1, 2, 3]);
    stock.putImage({ ...blank, id: 1, name: "9.jpg" });
    stock.revision++;
    expect(byName()).toEqual([2, 3, 1]);
  });
  it("go by what they are named for, with what is not said at the end either way", () => {
    expect(order("arrival")).toEqual([1, 2, 3, 4]);
    expect(order("arrival", true)).toEqual([4, 3, 2, 1]);
    expect(order("name")).toEqual([4, 2, 1, 3]);
    expect(order("taken")).toEqual([3, 4, 1, 2]);
    expect(order("taken", true)).toEqual([1, 4, 3, 2]);
    expect(order("objects", true)).toEqual([3, 1, 4, 2]);
    expect(order("confidence")).toEqual([3, 1, 2, 4]);
  });
  it("at random are the same for the same seed, and differ between seeds", () => {
    const many = stockOf(Array.from({ length: 200 }, (_, n) => ({ id: n + 1 })));
    const dealt = (seed: number) => matchingIds(many, everything, 0, 200, orderSchema.parse({ by: "random", seed }));
    expect(dealt(7)).toEqual(dealt(7));
    expect(dealt(7)).not.toEqual(dealt(8));
    expect([...dealt(7)].sort((a, b) => a - b)).toEqual(matchingIds(many, everything, 0, 200));
    // Of neighbours by arrival, few are neighbours still.
    const near = dealt(7).filter((id, at, all) => Math.abs(id - (all[at + 1] ?? 0)) === 1).length;
    expect(near).toBeLessThan(15);
  });
  it("give every image its place and neighbours, and pages that join without gap", () => {
    fc.assert(
      fc.property(fc.constantFrom(...orderKeys), fc.boolean(), fc.integer({ min: 1, max: 3 }), (by, down, size) => {
        const asked = orderSchema.parse({ by, down });
        const all = matchingIds(stock, everything, 0, 10, asked);
        const pages = [0, 1, 2, 3].flatMap((page) => matchingIds(stock, everything, page * size, size, asked));
        expect(pages).toEqual(all.slice(0, 4 * size));
        all.forEach((id, place) =>
          expect(placeAmong(stock, everything, id, asked)).toEqual({
            place,
            before: all[place - 1] ?? null,
            after: all[place + 1] ?? null,
          }),
        );
      }),
    );
    expect(placeAmong(stock, selectionSchema.parse({ where: "name = a.jpg" }), 3, arrivalOrder)).toEqual({
      place: 1,
      before: 2,
      after: null,
    });
  });
});
