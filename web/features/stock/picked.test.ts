import { describe, expect, it } from "vitest";
import { everything, holds, nothing, selectionOf, sizeOf, toggled, withMore } from "./picked";

const filter = { where: "has roll", only: null, except: [] };

describe("what is picked in the grid", () => {
  it("is one image by a click, several by clicks that keep, and none by a second click on the only one", () => {
    const one = toggled(nothing, 4, false);
    expect(selectionOf(one, filter)).toEqual({ where: "", only: [4], except: [] });
    expect(toggled(one, 4, false)).toBe(nothing);
    const two = toggled(one, 9, true);
    expect([holds(two, 4), holds(two, 9), sizeOf(two, 100)]).toEqual([true, true, 2]);
    expect(toggled(two, 5, false)).toEqual({ all: false, images: new Set([5]) });
    expect(sizeOf(toggled(two, 4, true), 100)).toBe(1);
  });
  it("is all that match but for some, told by the filter and never by ids", () => {
    const most = toggled(everything, 7, true);
    expect([holds(most, 7), holds(most, 8), sizeOf(most, 100_000)]).toEqual([false, true, 99_999]);
    expect(selectionOf(most, filter)).toEqual({ where: "has roll", only: null, except: [7] });
    expect(withMore(most, [6, 7, 8])).toEqual(everything);
    expect(withMore(toggled(nothing, 1, false), [2, 3])).toEqual({ all: false, images: new Set([1, 2, 3]) });
  });
});
