import { createHash } from "node:crypto";
import { describe, expect, it } from "vitest";
import { checkedStockOf } from "../checks/checked-stock";
import { takeStock } from "../checks/stocktake";
import { smallSnapshot } from "../tests/small-snapshot";
import { recipeOfFirst } from "../versions/first-manifest";
import { renderKey, type ManifestHeader, type ManifestLine } from "../versions/manifest";
import { VersionSnapshot } from "./version-snapshot";

const hash = (n: number) => createHash("sha256").update(String(n)).digest("hex");
const header: ManifestHeader = {
  larder: "manifest 2",
  classes: [{ name: "roll" }, { name: "bun" }],
  images: { as: "same", quality: 92 },
};
const line = (n: number, more: Partial<ManifestLine> = {}): ManifestLine => ({
  ...{ source: hash(n), copy: 0, name: `${n}.jpg`, split: "train", state: "labeled", size: { width: 100, height: 80 } },
  ...{ made: false, classes: [], captions: [], fields: {} },
  recipe: recipeOfFirst(hash(n), { orientation: 1, resize: null, flipSideways: false }, { width: 100, height: 80 }),
  objects: [{ class: "roll", shape: { kind: "box", x: 1, y: 2, width: 30, height: 40 } }],
  ...more,
});

describe("a version as a snapshot", () => {
  const stock = smallSnapshot(["roll"], [{}, { nearCopies: [1] }, {}]);
  // The first three images of the stock are those of the lines 1 to 3; 4 is not in stock any more.
  const slots = new Map([1, 2, 3].map((n) => [hash(n), n - 1]));
  stock.hashOf = (slot) => hash(slot + 1);
  const of = (lines: readonly ManifestLine[]) => {
    const version = new VersionSnapshot(stock, (key) => slots.get(key), header);
    for (const one of lines) version.add(one);
    return version.finished();
  };
  it("takes each output once, without its copies, with boxes as they were frozen", () => {
    const { snapshot, pictureOf } = of([line(1), line(1, { copy: 1, name: "1_copy1.jpg" }), line(4, { made: true })]);
    expect(snapshot.names).toEqual(["1.jpg", "4.jpg"]);
    expect([snapshot.width.at(0), snapshot.x.at(0), snapshot.boxHeight.at(0), snapshot.area.at(0)]).toEqual([
      ...[100, 1, 40, 1200],
    ]);
    expect(pictureOf(0)).toEqual({ image: 1, rendering: null });
    expect(pictureOf(1)).toEqual({ image: null, rendering: renderKey(line(4, { made: true }), header.images) });
  });
  it("takes tiles apart, and a copy where the original did not go out", () => {
    const tiles = of([line(1, { tile: [0, 0], name: "a" }), line(1, { tile: [0, 1], name: "b" })]);
    expect(tiles.snapshot.names).toEqual(["a", "b"]);
    expect(tiles.ids).toEqual(new Map([[1, 1]]));
    expect(of([line(2, { copy: 1 }), line(2, { copy: 2 })]).snapshot.length).toBe(1);
  });
  it("is checked: a leak between its splits, a class that it lacks", () => {
    const { snapshot, slots: all } = of([line(1), line(2, { split: "val" }), line(3)]);
    const findings = takeStock(checkedStockOf(snapshot, all, null));
    expect(findings.find(({ code }) => code === "near-copy-across-splits")?.count).toBe(2);
    expect(findings.find(({ code }) => code === "class-unused")?.sentence).toBe("Nothing in stock is labeled bun.");
    const together = of([line(1), line(2), line(3)]);
    expect(takeStock(checkedStockOf(together.snapshot, together.slots, null)).map(({ code }) => code)).not.toContain(
      "near-copy-across-splits",
    );
  });
});
