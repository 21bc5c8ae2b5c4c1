import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { changeImage, imageChanges } from "../tests/changing-snapshot";
import { objectClassSets } from "./object-class-sets";
import { Snapshot } from "./snapshot";

describe("sets of classes", () => {
  it("are those of each image's objects, whatever was changed since they were asked for", () => {
    fc.assert(
      fc.property(imageChanges(4), (changes) => {
        const snapshot = new Snapshot();
        for (const [nth, change] of changes.entries()) {
          changeImage(snapshot, change);
          // Asked for now and then, so that several changes come between.
          if (nth % 3 === 1) continue;
          const { codes, sets } = objectClassSets(snapshot);
          for (let slot = 0; slot < snapshot.length; slot++) {
            const first = snapshot.firstObject.at(slot);
            const classes = snapshot.objectClass.slice(first, first + snapshot.objectCount.at(slot));
            expect(sets[codes.at(slot)]).toEqual([...new Set(classes)].sort((a, b) => a - b));
          }
        }
      }),
    );
  });
  it("are shared by images that show the same classes, and none for one that shows nothing", () => {
    const snapshot = new Snapshot();
    const boxOf = (classId: number) => ({ classId, x: 0, y: 0, width: 1, height: 1 });
    [[3, 5], [], [5, 3, 3], [5]].forEach((ids, n) =>
      changeImage(snapshot, { id: n + 1, size: 9, boxes: ids.map(boxOf) }),
    );
    const { codes, sets } = objectClassSets(snapshot);
    expect([...codes.used]).toEqual([1, 0, 1, 2]);
    expect(sets.map((set) => set.map((index) => snapshot.classIds[index]))).toEqual([[], [3, 5], [5]]);
  });
});
