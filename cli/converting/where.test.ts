/** What `--where` means of an item, and that it looks no further than it is asked to. */
import { blankItem, type Item } from "@larder/core/model/item";
import { describe, expect, it } from "vitest";
import type { FoundItem } from "./settled-items";
import { whereTest } from "./where";

const noReading = () => Promise.reject(new Error("nothing is read anew"));
const found = (item: Item): FoundItem => ({ item, facts: null, bytes: null, findings: [] });

const roll: Item = {
  ...blankItem("rack/a.jpg"),
  state: "labeled",
  split: "train",
  objects: [{ class: "roll", shape: { kind: "box", x: 1, y: 2, width: 30, height: 40 } }],
};

/** An item whose objects must not be looked at: a source has millions of them. */
const closed = (item: Item): Item =>
  Object.defineProperty({ ...item }, "objects", {
    get() {
      throw new Error("its objects were looked at");
    },
  });

describe("a condition on a source's images", () => {
  it("means all of them where nothing is said, and looks at none", async () => {
    for (const text of ["", "  "]) expect((await whereTest(text, noReading))(found(closed(roll)))).toBe(true);
  });
  it("that asks nothing of objects does not look at them", async () => {
    expect((await whereTest("split = train", noReading))(found(closed(roll)))).toBe(true);
    expect((await whereTest('name like "rack*"', noReading))(found(closed({ ...roll, path: "tray/a.jpg" })))).toBe(
      false,
    );
  });
  it("that asks for objects looks at them", async () => {
    expect((await whereTest("has roll (width > 25)", noReading))(found(roll))).toBe(true);
    expect((await whereTest("has roll (width > 30)", noReading))(found(roll))).toBe(false);
  });
});
