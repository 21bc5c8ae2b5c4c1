import { describe, expect, it } from "vitest";
import { noLabels, type Labels, type StockObject } from "../labels/labels";
import { disputedFrame, disputedObjects } from "./disputed";

const box = (uid: string, x: number, of = 1): StockObject => ({
  ...{ uid, class: of, order: 0 },
  shape: { kind: "box", x, y: 10, width: 20, height: 20 },
});
const labels = (...objects: StockObject[]): Labels => ({
  ...noLabels,
  objects,
  state: "labeled",
});

describe("disputed objects", () => {
  const moved = { do: "set-shape", uid: "a", shape: { kind: "box", x: 40, y: 10, width: 20, height: 20 } } as const;
  it("are shown as both would have them, and no others", () => {
    const theirs = labels(box("a", 0, 2), box("b", 200));
    expect(disputedObjects([moved, { do: "pin", pinned: true }], theirs, labels(box("a", 20)))).toEqual([
      { uid: "a", mine: { ...box("a", 40, 2) }, theirs: box("a", 0, 2) },
    ]);
  });
  it("that somebody took away are known from what they were here", () => {
    expect(disputedObjects([moved], labels(), labels(box("a", 20)))).toEqual([
      { uid: "a", mine: box("a", 40), theirs: null },
    ]);
    const gone = { do: "remove-object", uid: "a" } as const;
    expect(disputedObjects([gone], labels(box("a", 0)), labels())).toEqual([
      { uid: "a", mine: null, theirs: box("a", 0) },
    ]);
    expect(disputedObjects([moved], labels(), labels())).toEqual([{ uid: "a", mine: null, theirs: null }]);
  });
  it("lie in a frame that shows both states with what is around them", () => {
    const disputed = [{ uid: "a", mine: box("a", 140), theirs: box("a", 100) }];
    // From 100 to 160 across: 60, of which 40 % are 24 on each side; above, the picture ends.
    expect(disputedFrame(disputed, { width: 400, height: 300 })).toEqual({ x: 76, y: 0, width: 108, height: 54 });
    expect(disputedFrame([{ uid: "a", mine: null, theirs: null }], { width: 9, height: 9 })).toBeNull();
  });
});
