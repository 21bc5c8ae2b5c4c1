import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { changeImage, imageChanges, type ImageChange } from "../tests/changing-snapshot";
import { objectMeasures } from "./object-measures";
import { Snapshot } from "./snapshot";

const fields = ["share", "ratio", "x", "y", "width", "area"] as const;

/** By image what its objects measure. */
function measured(snapshot: Snapshot) {
  return Array.from({ length: snapshot.length }, (_, slot) => {
    const [first, count] = [snapshot.firstObject.at(slot), snapshot.objectCount.at(slot)];
    return fields.map((field) => [...(objectMeasures(snapshot, field)?.subarray(first, first + count) ?? [])]);
  });
}

/** The last that became of each image, put in at once. */
function anew(changes: readonly ImageChange[]): Snapshot {
  const snapshot = new Snapshot();
  const last = new Map(changes.map((change) => [change.id, change]));
  for (const id of [...last.keys()].sort((a, b) => a - b)) changeImage(snapshot, last.get(id) as ImageChange);
  return snapshot;
}

describe("measures of objects", () => {
  it("are those of a snapshot built anew, whatever was changed since they were asked for", () => {
    fc.assert(
      fc.property(imageChanges(4), (changes) => {
        const snapshot = new Snapshot();
        for (const [nth, change] of changes.entries()) {
          changeImage(snapshot, change);
          if (nth >= 4 && nth % 3 !== 1) expect(measured(snapshot)).toEqual(measured(anew(changes.slice(0, nth + 1))));
        }
      }),
    );
  });
  it("are shares of the image, and unset where there is nothing to take a share of", () => {
    const box = { classId: 1, x: 20, y: 10, width: 40, height: 20 };
    const flat = { ...box, height: 0 };
    const [image, nothing] = [
      { id: 1, size: 200, boxes: [box, flat] },
      { id: 2, size: 0, boxes: [box] },
    ];
    // 800 of 40,000 square pixels; the middle of the box lies at 40 and 20 of 200.
    expect(measured(anew([image, nothing]))).toEqual([
      [
        [0.02, 0],
        [2, Number.NaN],
        [0.2, 0.2],
        [0.1, 0.05],
        [40, 40],
        [800, 0],
      ],
      [[Number.NaN], [2], [Number.NaN], [Number.NaN], [40], [800]],
    ]);
  });
});
