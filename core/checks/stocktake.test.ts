import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, it } from "vitest";
import { kindsOfFields } from "../model/field-kinds";
import { Learned } from "../snapshot/learned";
import type { Snapshot } from "../snapshot/snapshot";
import { blankImage, smallSnapshot, type SmallImage } from "../tests/small-snapshot";
import type { CheckedStock } from "./check";
import { describeFinding } from "./shown-finding";
import { allChecks, takeStock, thresholdOf, type StockFinding, type Thresholds } from "./stocktake";
import { tallyClasses } from "./tally";

function checked(snapshot: Snapshot): CheckedStock {
  const slots = Uint32Array.from({ length: snapshot.length }, (_, slot) => slot);
  return { snapshot, slots, tallies: tallyClasses(snapshot, slots), learned: null };
}
const found = (snapshot: Snapshot, code: string, set: Thresholds = {}): StockFinding[] =>
  takeStock(checked(snapshot), set).filter((finding) => finding.code === code);
/** The images (by their ids) and how many objects of each prove a finding. */
const proofs = (findings: readonly StockFinding[]) =>
  findings.flatMap((finding) => finding.proofs.map(({ slot, objects }) => [slot + 1, objects.length]));
const times = (count: number, image: (n: number) => SmallImage): SmallImage[] =>
  Array.from({ length: count }, (_, n) => image(n));
const roll = (box?: readonly [number, number, number, number]) => ({ of: "roll", ...(box ? { box } : {}) });

describe("near-copies", () => {
  const stock = smallSnapshot(
    ["roll"],
    [
      { split: "train", nearCopies: [2] },
      { split: "val" },
      { split: "train", nearCopies: [4] },
      { split: "train" },
      { split: "val", nearCopies: [6] },
      { split: null },
      { split: "test" },
    ],
  );
  it("across splits are a leak: together into train, or out", () => {
    const [leak, ...others] = found(stock, "near-copy-across-splits");
    expect(others).toEqual([]);
    expect(leak?.sentence).toBe("2 images have a near-copy in another split, in 1 group.");
    expect(proofs([leak as StockFinding])).toEqual([
      [1, 0],
      [2, 0],
    ]);
    expect(leak?.mends).toEqual([
      { label: "Move them together to train", request: { do: "move", split: "train" }, slots: [1] },
      { label: "Leave out the copies in other splits", request: { do: "remove" }, slots: [1] },
    ]);
  });
  it("within a split are only worth knowing, and the first one stays", () => {
    expect(proofs(found(stock, "near-copy-within-split"))).toEqual([
      [4, 0],
      [6, 0],
    ]);
    const single = smallSnapshot(["roll"], [{ split: "train" }, { split: "val" }]);
    expect(found(single, "near-copy-within-split").concat(found(single, "near-copy-across-splits"))).toEqual([]);
  });
});

describe("objects by their boxes", () => {
  const stock = smallSnapshot(
    ["roll", "loaf"],
    [
      // Overlap 20 × 18 of 20 × 20 and 20 × 18: 0.9 exactly.
      { objects: [roll([10, 10, 20, 20]), roll([10, 11, 20, 18]), { of: "loaf", box: [50, 10, 20, 20] }] },
      // Under two names: 20 × 19 over 20 × 20.
      { objects: [roll([10, 10, 20, 20]), { of: "loaf", box: [10, 10, 20, 19] }] },
      { objects: [roll([0, 0, 100, 79])] },
      { objects: [roll([10, 10, 3, 30])] },
      { objects: [roll([-1, 10, 20, 20]), roll([80, 60, 20.4, 20.4])] },
      { objects: [{ ...roll([10, 10, 50, 50]), area: 150 }] },
    ],
  );
  it("are found where they are twice, under two names, whole, tiny, outside or sparse, and nowhere else", () => {
    expect(proofs(found(stock, "object-duplicate"))).toEqual([[1, 1]]);
    expect(found(stock, "object-duplicate", { "object-duplicate": 91 })).toEqual([]);
    expect(proofs(found(stock, "classes-on-one-place"))).toEqual([[2, 1]]);
    expect(proofs(found(stock, "box-whole-picture"))).toEqual([[3, 1]]);
    expect(found(stock, "box-whole-picture", { "box-whole-picture": 99 })).toEqual([]);
    expect(proofs(found(stock, "box-tiny"))).toEqual([[4, 1]]);
    expect(proofs(found(stock, "box-outside-image"))).toEqual([[5, 1]]);
    expect(proofs(found(stock, "outline-sparse"))).toEqual([[6, 1]]);
    expect(found(stock, "box-tiny")[0]?.mends).toEqual([{ label: "Remove these objects", removes: "objects" }]);
  });
});

describe("classes and splits", () => {
  const uneven = smallSnapshot(
    ["roll", "tart", "bun"],
    [
      ...times(40, () => ({ split: "train", objects: times(9, () => ({})).map(() => roll()) })),
      { split: "train", objects: [{ of: "tart" }, { of: "tart", box: [50, 50, 9, 9] }] },
      { split: "val", objects: [roll(), roll([40, 40, 9, 9]), roll([60, 10, 9, 9])] },
      {},
    ],
  );
  it("are said to be rare, missing, uneven and left over, by hand", () => {
    const codes = ["class-rare", "class-lacks-split", "split-small", "classes-uneven", "class-unused", "split-empty"];
    const said = takeStock(checked(uneven)).filter(({ code }) => codes.includes(code) || code === "unlabeled-left");
    expect(said.map(({ sentence }) => sentence).sort()).toEqual([
      "1 image waits for a label, 2.3% of all.",
      "Nothing in stock is labeled bun.",
      "There are 182 times as many roll as tart.",
      "tart has only 2 examples, on 1 image.",
      "test holds no image.",
      "val holds 1 image, less than 5% of what has a split.",
      "val holds no tart.",
    ]);
    expect(found(uneven, "class-rare", { "class-rare": 2 })).toEqual([]);
  });
  it("differ between splits by V, worked out by hand, or are said to be alike", () => {
    // Train: 120 rolls, 80 loaves. Val: 19 and 81. Expected in val: 46.3 and 53.7, in train twice as many.
    const split = (name: "train" | "val", rolls: number, loaves: number) => [
      ...times(rolls, () => ({ split: name, objects: [roll()] })),
      ...times(loaves, () => ({ split: name, objects: [{ of: "loaf" }] })),
    ];
    const differs = smallSnapshot(["roll", "loaf"], [...split("train", 120, 80), ...split("val", 19, 81)]);
    // Chi-square: 27.33² × 1.5 × (1 / 46.33 + 1 / 53.67) = 45.07; V = √(45.07 / 300) = 0.388.
    expect(found(differs, "split-differs").map(({ key, sentence }) => [key, sentence])).toEqual([
      [
        "split-differs val",
        "The classes of val are in other proportions than elsewhere (V 0.39): 19.0% is roll, 60.0% elsewhere.",
      ],
    ]);
    expect(
      found(smallSnapshot(["roll", "loaf"], [...split("train", 60, 40), ...split("val", 30, 20)]), "split-differs"),
    ).toEqual([]);
    // A difference that chance makes of so few is none.
    expect(
      found(smallSnapshot(["roll", "loaf"], [...split("train", 12, 10), ...split("val", 6, 8)]), "split-differs"),
    ).toEqual([]);
  });
  it("of one delivery alone are pointed out, once they are on five images", () => {
    const stock = (loaves: number) =>
      smallSnapshot(
        ["roll", "loaf"],
        [
          ...times(6, () => ({ delivery: 1, objects: [roll()] })),
          ...times(3, () => ({ delivery: 2, objects: [roll()] })),
          ...times(loaves, () => ({ delivery: 2, objects: [{ of: "loaf" }] })),
        ],
      );
    expect(found(stock(5), "class-one-delivery").map(({ sentence }) => sentence)).toEqual([
      "All 5 images with loaf came with delivery 2.",
    ]);
    expect(found(stock(4), "class-one-delivery")).toEqual([]);
  });
  const bake = { name: "bake", kind: "choice" as const, values: ["dark", "pale"], required: true, help: "" };
  it("look alike by name, exclude each other under one parent, lack what they require", () => {
    const stock = smallSnapshot(
      ["Roll", "rolls", { name: "loaf", attributes: [bake] }, { name: "day", parent: 1 }, { name: "night", parent: 1 }],
      [
        { classes: ["day", "night"] },
        { classes: ["day"] },
        { objects: [{ of: "loaf" }, { of: "loaf", box: [50, 50, 9, 9], attributes: { bake: "dark" } }] },
      ],
    );
    const [alike] = found(stock, "class-similar");
    expect(alike?.mends).toEqual([{ label: "Merge rolls into Roll", request: { do: "merge", from: 2, into: 1 } }]);
    expect(proofs(found(stock, "image-classes-exclude"))).toEqual([[1, 0]]);
    expect(proofs(found(stock, "attribute-missing"))).toEqual([[3, 1]]);
  });
});

describe("pictures", () => {
  it("are said to be turned, and unlike the rest in size", () => {
    const stock = smallSnapshot(["roll"], [...times(5, () => ({})), { turned: true }, { width: 10, height: 10 }]);
    expect(proofs(found(stock, "exif-rotated"))).toEqual([[6, 0]]);
    expect(proofs(found(stock, "size-unlike-rest"))).toEqual([[7, 0]]);
    expect(found(stock, "size-unlike-rest", { "size-unlike-rest": 100 })).toEqual([]);
  });
});

const swappedAt = (n: number, size: number) => (n >= size ? -1 : 1);
/** An object with eyes at 20 and 40 pixels, or the other way round. */
const face = (order: number, more: object = {}) => ({
  ...{ of: "bun", box: [10, 10, 50, 50] as const },
  keypoints: [
    { x: 30 - 10 * order, y: 20, v: 2 as const },
    { x: 30 + 10 * order, y: 20, v: 1 as const },
  ],
  ...more,
});

describe("keypoints", () => {
  const bun = { name: "bun", keypoints: ["left eye", "right eye"] };
  it("have left and right swapped where nearly all of their class lie the other way", () => {
    const stock = (usual: number, swapped: number) =>
      smallSnapshot(
        [bun],
        times(usual + swapped, (n) => ({ objects: [face(swappedAt(n, usual))] })),
      );
    expect(proofs(found(stock(18, 2), "keypoints-swapped"))).toEqual([
      [19, 1],
      [20, 1],
    ]);
    expect(found(stock(18, 2), "keypoints-swapped")[0]?.sentence).toBe(
      "2 objects have left and right the other way round than most of their class.",
    );
    // Seen from both sides, or too few to tell.
    expect(found(stock(16, 4), "keypoints-swapped")).toEqual([]);
    expect(found(stock(8, 1), "keypoints-swapped")).toEqual([]);
  });
  it("lie outside of their box beyond the slack, where they are there at all", () => {
    const at = (x: number, v: 0 | 1 | 2) => ({ objects: [face(1, { keypoints: [{ x, y: 20, v }] })] });
    // The box ends at 60; 5% of its side and half a pixel are 3 pixels.
    const stock = smallSnapshot([bun], [at(62.9, 2), at(63.1, 2), at(99, 0), at(6.9, 1)]);
    expect(proofs(found(stock, "keypoint-outside-box"))).toEqual([
      [2, 1],
      [4, 1],
    ]);
    expect(found(stock, "keypoint-outside-box", { "keypoint-outside-box": 50 })).toEqual([]);
    expect(found(smallSnapshot(["bun"], [{ objects: [{ of: "bun" }] }]), "keypoint-outside-box")).toEqual([]);
  });
  it("are left behind with the objects of an image that is put in anew", () => {
    const stock = smallSnapshot([bun], [{ objects: [face(1)] }, { objects: [face(1)] }]);
    stock.putImage({ ...blankImage, id: 1, hash: new Uint8Array(32) });
    expect([...stock.keypoints.keys()]).toEqual([2]);
  });
});

describe("what pictures are like", () => {
  const even = { brightness: 120, contrast: 40, cast: 3, sharpness: 200, burnt: 0 };
  const stockOf = (list: readonly Partial<typeof even>[]) => {
    const snapshot = smallSnapshot(
      ["roll"],
      list.map(() => ({})),
    );
    const measures = new Learned();
    list.forEach((one, n) => measures.put(n + 1, new Uint8Array(0), n + 1, { ...even, ...one }));
    return { ...checked(snapshot), measures };
  };
  const codesOf = (stock: CheckedStock, set: Thresholds = {}) =>
    takeStock(stock, set)
      .filter(({ code }) => code.startsWith("picture-"))
      .map(({ code, proofs: list }) => [code, ...list.map(({ slot }) => slot + 1)]);
  it("is blurred, dark or burnt out beyond the thresholds, the worst first", () => {
    const stock = stockOf([{}, {}, {}, { sharpness: 9 }, { sharpness: 4 }, { brightness: 20 }, { burnt: 0.4 }, {}]);
    // The median sharpness is 200, of which 5% is 10.
    expect(codesOf(stock)).toEqual([
      ["picture-blurred", 5, 4],
      ["picture-burnt-out", 7],
      ["picture-dark", 6],
    ]);
    const dark = takeStock(stock).find(({ code }) => code === "picture-dark");
    expect(dark?.mends).toEqual([{ label: "Put them into the bin", request: { do: "remove" } }]);
    expect(codesOf(stock, { "picture-blurred": 2, "picture-dark": 20, "picture-burnt-out": 41 })).toEqual([]);
  });
  it("is not judged where it is not known", () => {
    expect(codesOf(checked(smallSnapshot(["roll"], [{}, {}])))).toEqual([]);
    expect(codesOf({ ...checked(smallSnapshot(["roll"], [{}, {}])), measures: new Learned() })).toEqual([]);
  });
});

describe("attributes", () => {
  const schema = { name: "weight", kind: "number" as const, least: 1, required: false, help: "" };
  it("do not fit what their class declares; of others nothing is said", () => {
    const stock = smallSnapshot(
      [{ name: "loaf", attributes: [schema] }, "roll"],
      [
        {
          objects: [
            { of: "loaf", attributes: { weight: "heavy" } },
            { of: "loaf", attributes: { weight: 2 } },
          ],
        },
        { objects: [{ of: "loaf", attributes: { weight: 0 } }] },
        { objects: [{ of: "roll", attributes: { weight: "heavy" } }, { of: "loaf" }] },
      ],
    );
    expect(proofs(found(stock, "attribute-misfit"))).toEqual([
      [1, 1],
      [2, 1],
    ]);
    expect(found(smallSnapshot(["roll"], [{ objects: [roll()] }]), "attribute-misfit")).toEqual([]);
  });
});

describe("texts in fields", () => {
  const many = (count: number, fields: (n: number) => Record<string, string>) =>
    Array.from({ length: count }, (_, n) => fields(n));
  const withFields = (fields: readonly Record<string, string>[]) =>
    smallSnapshot(
      ["roll"],
      fields.map((one) => ({ fieldKinds: kindsOfFields(one) })),
    );
  it("do not read as those of nearly all others of their field", () => {
    const totals = many(18, (n) => ({ total: `${n}.50`, note: n % 2 ? "12" : "well baked" }));
    const stock = withFields([{ total: "gone" }, ...totals, { total: "2026-11-27" }, { note: "7" }]);
    const misfits = found(stock, "field-misfit");
    expect(misfits.map(({ sentence }) => sentence)).toEqual([
      "2 images have a total that does not read as a number, as on 18 others.",
    ]);
    expect(misfits[0]?.key).toBe("field-misfit total");
    expect(proofs(misfits)).toEqual([
      [1, 0],
      [20, 0],
    ]);
    expect(found(stock, "field-misfit", { "field-misfit": 91 })).toEqual([]);
  });
  it("of a field on few images, or of one that is anything, are left alone", () => {
    expect(found(withFields([{ day: "soon" }, ...many(8, () => ({ day: "1.2.2026" }))]), "field-misfit")).toEqual([]);
    const notes = [{ note: "3" }, ...many(30, (n) => ({ note: `loaf ${n} and more` }))];
    expect(found(withFields(notes), "field-misfit")).toEqual([]);
    expect(found(withFields(many(12, () => ({}))), "field-misfit")).toEqual([]);
  });
});

describe("a stocktake", () => {
  const stock = smallSnapshot(["roll"], [{ objects: [roll([10, 10, 2, 30])] }, { objects: [roll([10, 10, 3, 30])] }]);
  it("says nothing of an empty stock, and nothing of images that a check is to leave alone", () => {
    expect(takeStock(checked(smallSnapshot(["roll"], [])))).toEqual([]);
    expect(found(stock, "box-tiny")[0]?.sentence).toBe("2 objects are fewer than 4 pixels wide or high.");
    const rest = takeStock(checked(stock), {}, new Map([["box-tiny", new Set([0])]]));
    expect(rest.find(({ code }) => code === "box-tiny")?.sentence).toBe(
      "1 object is fewer than 4 pixels wide or high.",
    );
  });
  it("keeps a finding's mark as long as the same objects prove it", () => {
    const mark = (snapshot: Snapshot) => describeFinding(snapshot, found(snapshot, "box-tiny")[0] as StockFinding).mark;
    const before = mark(stock);
    expect(
      mark(smallSnapshot(["roll"], [{ objects: [roll([10, 10, 2, 30])] }, { objects: [roll([10, 10, 3, 30])] }])),
    ).toBe(before);
    expect(mark(smallSnapshot(["roll"], [{ objects: [roll([10, 10, 2, 30])] }]))).not.toBe(before);
  });
  it("is described: every check has its line, with what it means", () => {
    const described = readFileSync(path.join(import.meta.dirname, "..", "..", "docs", "checks.md"), "utf8");
    for (const { code, severity, means } of allChecks)
      expect(described).toContain(`| \`${code}\` | ${severity} | ${means} |`);
  });
  it("has checks of different codes, and keeps thresholds within their range", () => {
    expect(new Set(allChecks.map(({ code }) => code)).size).toBe(allChecks.length);
    const tiny = allChecks.find(({ code }) => code === "box-tiny");
    if (!tiny) throw new Error("there is such a check");
    expect([
      thresholdOf(tiny, {}),
      thresholdOf(tiny, { "box-tiny": -3 }),
      thresholdOf(tiny, { "box-tiny": 9 }),
    ]).toEqual([4, 1, 9]);
  });
});
