import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Snapshot } from "../snapshot/snapshot";
import { blankImage, smallSnapshot, type SmallObject } from "../tests/small-snapshot";
import { checkedStockOf } from "./checked-stock";
import { Judgements } from "./judgements";
import { allChecks, takeStock } from "./stocktake";

const stockOf = (snapshot: Snapshot) =>
  checkedStockOf(
    snapshot,
    Uint32Array.from({ length: snapshot.length }, (_, slot) => slot).filter((slot) => snapshot.present.at(slot) === 1),
    null,
  );
/** What is found anew, and what is found with what was judged before. */
const both = (snapshot: Snapshot, judgements: Judgements, thresholds: Record<string, number> = {}) => [
  takeStock(stockOf(snapshot), thresholds),
  takeStock(stockOf(snapshot), thresholds, new Map(), allChecks, judgements),
];

/** Puts an image in anew, with other objects. */
function redraw(
  snapshot: Snapshot,
  id: number,
  boxes: readonly (readonly [number, number, number, number])[],
  present = true,
) {
  const slot = snapshot.putImage({ ...blankImage, id, hash: new Uint8Array(32).fill(id), name: `${id}.jpg`, present });
  for (const [x, y, width, height] of boxes) {
    snapshot.pushObject({
      ...{ id: 1000 + snapshot.objectClass.length, classId: 1, x, y, width, height, area: width * height },
      ...{ confidence: Number.NaN, shape: 0, flags: 0, attributes: null },
    });
    snapshot.countObject(slot);
  }
}

const tiny: SmallObject = { of: "roll", box: [0, 0, 2, 9] };

describe("judgements of images", () => {
  it("are those of a stocktake anew, whatever is drawn, removed and added in between", () => {
    const box = fc.tuple(
      fc.integer({ min: -5, max: 90 }),
      fc.integer({ min: 0, max: 70 }),
      fc.constantFrom(2, 20, 100),
      fc.constantFrom(3, 20, 80),
    );
    const change = fc.record({
      id: fc.integer({ min: 1, max: 5 }),
      boxes: fc.array(box, { maxLength: 3 }),
      present: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 8 }), fc.constantFrom(4, 21), (changes, pixels) => {
        const snapshot = smallSnapshot(["roll"], [{ objects: [tiny] }, { objects: [{ of: "roll" }] }, {}]);
        const judgements = new Judgements(snapshot);
        both(snapshot, judgements);
        for (const { id, boxes, present } of changes.filter(({ id: wanted }) => wanted <= snapshot.length + 1)) {
          redraw(snapshot, id, boxes, present);
          const [anew, kept] = both(snapshot, judgements, { "box-tiny": pixels });
          expect(kept).toEqual(anew);
        }
      }),
      { numRuns: 60 },
    );
  });
  it("look at nothing but what changed, and at everything once classes declare something else", () => {
    const snapshot = smallSnapshot(["roll"], [{ objects: [tiny] }, { objects: [tiny] }]);
    const judgements = new Judgements(snapshot);
    both(snapshot, judgements);
    redraw(snapshot, 2, []);
    // Whoever changes the first one without saying so is not believed.
    snapshot.boxWidth.set(0, 50);
    expect(takeStock(stockOf(snapshot), {}, new Map(), allChecks, judgements).map(({ code }) => code)).toContain(
      "box-tiny",
    );
    snapshot.classes = [{ ...(snapshot.classes[0] as Snapshot["classes"][number]), keypoints: ["left", "right"] }];
    expect(takeStock(stockOf(snapshot), {}, new Map(), allChecks, judgements).map(({ code }) => code)).not.toContain(
      "box-tiny",
    );
  });
  it("leave out what was said to be fine", () => {
    const snapshot = smallSnapshot(["roll"], [{ objects: [tiny] }, { objects: [tiny] }]);
    const exempt = new Map([["box-tiny", new Set([0])]]);
    const judgements = new Judgements(snapshot);
    const found = () =>
      takeStock(stockOf(snapshot), {}, exempt, allChecks, judgements).find(({ code }) => code === "box-tiny");
    expect(found()?.count).toBe(1);
    exempt.get("box-tiny")?.delete(0);
    expect(found()?.count).toBe(2);
  });
});
