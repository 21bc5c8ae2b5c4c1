import { describe, expect, it } from "vitest";
import { featureLength } from "../../learning/features";
import { Learned } from "../../snapshot/learned";
import type { Snapshot } from "../../snapshot/snapshot";
import { smallSnapshot } from "../../tests/small-snapshot";
import { takeStock } from "../stocktake";
import { checkedStockOf } from "../checked-stock";
import { tallyClasses } from "../tally";
import { doubtfulLabels } from "./looks";

/** One object an image, each with features of one byte. */
function learnedOf(snapshot: Snapshot, looks: readonly number[]): Learned {
  const learned = new Learned();
  looks.forEach((look, n) => {
    const packed = new Uint8Array(featureLength + 16 + featureLength);
    const view = new DataView(packed.buffer);
    [10, 10, 20, 20].forEach((value, at) => view.setFloat32(featureLength + 4 * at, value, true));
    packed.fill(look, featureLength + 16);
    learned.put(n + 1, packed, n + 1);
  });
  expect(learned.objectFeatures(snapshot).objects.every((place) => place >= 0)).toBe(true);
  return learned;
}

describe("labels that do not fit the looks", () => {
  const classes = [...Array.from({ length: 14 }, () => "roll"), ...Array.from({ length: 14 }, () => "tart")];
  // Rolls look like 20 to 33, tarts like 200 to 213; the fourth roll looks like a tart.
  const looks = classes.map((name, n) => (n === 3 ? 206 : name === "roll" ? 20 + n : 186 + n));
  const snapshot = smallSnapshot(
    ["roll", "tart"],
    classes.map((of) => ({ objects: [{ of }] })),
  );
  const stock = {
    ...{ snapshot, learned: learnedOf(snapshot, looks) },
    slots: Uint32Array.from(classes, (_, slot) => slot),
    tallies: tallyClasses(
      snapshot,
      Uint32Array.from(classes, (_, slot) => slot),
    ),
  };
  it("are found where the neighbours have another class, and only there", () => {
    const [doubt, ...others] = doubtfulLabels(stock);
    expect(others).toEqual([]);
    expect(doubt).toMatchObject({ slot: 3, object: 3, likely: snapshot.classIndex(2) });
    // Its ten neighbours are tarts. Around 14 rolls lie 130 rolls and these 10 tarts, around 14 tarts 126 tarts and 14 times
    // the fourth roll; each pair counts once more: a tart is (126 + 1) / (10 + 1) times as likely around a tart.
    expect(doubt?.sure).toBeCloseTo(1 - 11 / 127, 12);
    expect(doubtfulLabels({ ...stock, learned: null })).toEqual([]);
  });
  it("are not those of classes that look alike: what neighbours are usual for a class is fine", () => {
    // Rolls and buns lie among each other, one after the other.
    const mixed = smallSnapshot(
      ["roll", "bun", "tart"],
      classes.map((_, n) => ({ objects: [{ of: n > 18 ? "tart" : n % 2 ? "bun" : "roll" }] })),
    );
    const learned = learnedOf(
      mixed,
      classes.map((_, n) => (n > 18 ? 180 + n : 20 + n)),
    );
    const slots = Uint32Array.from(classes, (_, slot) => slot);
    for (const { sure } of doubtfulLabels(checkedStockOf(mixed, slots, learned))) expect(sure).toBeLessThan(0.2);
  });
  it("come with the class that mends them", () => {
    const [wrong] = takeStock(stock).filter(({ code }) => code === "probably-mislabeled");
    expect(wrong).toMatchObject({ sentence: "1 roll looks like tart.", mends: [{ label: "Make it tart", into: 2 }] });
    expect(wrong?.proofs).toEqual([{ slot: 3, objects: [3] }]);
    const unlike = takeStock(stock).find(({ code }) => code === "object-unlike-class");
    expect(unlike?.proofs).toEqual([expect.objectContaining({ slot: 3, objects: [3] })]);
  });
  it("are found of whole images, too, where each has one class", () => {
    const images = smallSnapshot(
      ["day", "night", "tray"],
      classes.map((name, n) => ({ classes: n === 27 ? ["day", "night"] : [name === "roll" ? "day" : "night"] })),
    );
    const learned = new Learned();
    looks.forEach((look, n) => learned.put(n + 1, new Uint8Array(featureLength).fill(look), n + 1));
    const slots = Uint32Array.from(classes, (_, slot) => slot);
    const findings = takeStock(checkedStockOf(images, slots, learned));
    const [wrong, ...others] = findings.filter(({ code }) => code === "image-probably-mislabeled");
    expect(others).toEqual([]);
    expect(wrong).toMatchObject({
      sentence: "1 image of day looks like night.",
      mends: [{ label: "Make it night", request: { do: "set-classes", classes: [2] } }],
      proofs: [{ slot: 3, objects: [] }],
    });
    expect(takeStock(checkedStockOf(images, slots, null)).map(({ code }) => code)).not.toContain(
      "image-probably-mislabeled",
    );
  });
});
