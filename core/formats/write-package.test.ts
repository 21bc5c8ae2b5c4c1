/** What guards every package: options, the comparison after writing, and what reading back may not find. */
import { describe, expect, it } from "vitest";
import { Findings } from "../model/finding";
import { MemoryTree } from "../tests/memory-tree";
import { outgoing } from "../tests/reading";
import { classFolders } from "./class-folders/index";
import { coco } from "./coco/index";
import type { Format, Options } from "./format";
import { declaredOptions, sortOptions } from "./options";
import { formats } from "./registry";
import { voc } from "./voc/index";
import { verifyPackage, writePackage } from "./write-package";
import { yolo } from "./yolo/index";

const items = () => [
  outgoing("a.jpg", "train", [{ class: "roll", shape: { kind: "box" as const, x: 10, y: 20, width: 30, height: 40 } }]),
  outgoing("b.jpg", "val", []),
];

async function written(format: Format, options: Options = {}) {
  const tree = new MemoryTree({}, 4096);
  const package_ = await writePackage(
    format,
    {
      title: "t",
      classes: [{ name: "roll" }, { name: "tart" }],
      notes: [],
      items: (async function* () {
        yield* items();
      })(),
    },
    tree,
    options,
    new Findings(),
  );
  return { tree, package_ };
}

describe("reading back", () => {
  const change = async (path: string, edit: (text: string) => string | null) => {
    const { tree, package_ } = await written(yolo);
    const text = edit(tree.text(path));
    tree.files.delete(path);
    if (text !== null) await tree.write(path, text);
    return verifyPackage(yolo, tree, package_, {});
  };
  it("is content with what was written", async () => {
    await expect(change("labels/train/a.txt", (text) => text)).resolves.toBeUndefined();
    await expect(
      change("labels/train/a.txt", (text) => text.replace(/0 0\.0260416667/, "0 0.0260417")),
    ).resolves.toBeUndefined();
  });
  it("finds a box that moved, another class, an object more or less, another split, an image that is gone or came", async () => {
    await expect(change("labels/train/a.txt", (text) => text.replace(/^0 0\.0/, "0 0.1"))).rejects.toThrow(
      /object 1 of images\/train\/a\.jpg, a roll, came back different/,
    );
    await expect(change("labels/train/a.txt", (text) => text.replace(/^0/, "1"))).rejects.toThrow(
      /came back different/,
    );
    await expect(change("labels/train/a.txt", (text) => text + text)).rejects.toThrow(
      /had 1 objects and came back with 2/,
    );
    await expect(change("labels/val/b.txt", () => null)).rejects.toThrow(/was empty and came back unlabeled/);
    await expect(change("images/val/b.jpg", () => null)).rejects.toThrow(/b\.jpg did not come back/);
    const { tree, package_ } = await written(yolo);
    await tree.write("images/train/stray.jpg", "x");
    await expect(verifyPackage(yolo, tree, package_, {})).rejects.toThrow(/stray\.jpg came back and was not written/);
  });
  it("finds flags, attributes and captions that changed", async () => {
    const tree = new MemoryTree({}, 4096);
    const rich = outgoing(
      "a.jpg",
      "train",
      [
        {
          class: "roll",
          crowd: true,
          attributes: { bake: "pale" },
          shape: { kind: "box", x: 1, y: 2, width: 3, height: 4 },
        },
      ],
      undefined,
      { captions: ["warm"] },
    );
    const package_ = await writePackage(
      coco,
      {
        title: "t",
        classes: [{ name: "roll" }],
        notes: [],
        items: (async function* () {
          yield await Promise.resolve(rich);
        })(),
      },
      tree,
      {},
      new Findings(),
    );
    const path = "annotations/instances_train.json";
    const text = tree.text(path);
    for (const [from, to] of [
      ['"iscrowd":1', '"iscrowd":0'],
      ['"pale"', '"dark"'],
    ] as const) {
      tree.files.set(path, new TextEncoder().encode(text.replace(from, to)));
      await expect(verifyPackage(coco, tree, package_, {})).rejects.toThrow(/came back different/);
    }
    tree.files.set(path, new TextEncoder().encode(text));
    tree.files.set(
      "annotations/captions_train.json",
      new TextEncoder().encode(tree.text("annotations/captions_train.json").replace("warm", "cold")),
    );
    await expect(verifyPackage(coco, tree, package_, {})).rejects.toThrow(/other classes, captions or fields/);
  });
});

describe("options", () => {
  it("are sorted by direction, and a writer's own is taken from its plain name where the reader has none", () => {
    expect(sortOptions(["origin=zero"], voc, coco)).toEqual({ reading: { origin: "zero" }, writing: {} });
    expect(sortOptions(["origin=zero"], coco, voc)).toEqual({ reading: {}, writing: { "write-origin": "zero" } });
    expect(sortOptions(["origin=zero", "write-origin=one", "images=none"], voc, voc)).toEqual({
      reading: { origin: "zero" },
      writing: { "write-origin": "one", images: "none" },
    });
  });
  it("are refused where nobody knows them, or their value", () => {
    expect(() => sortOptions(["colour=red"], coco, yolo)).toThrow(/no option "colour" for coco to yolo.*unannotated/);
    expect(() => sortOptions(["images=maybe"], coco, yolo)).toThrow(/takes copy\|link\|none, not "maybe"/);
    expect(() => sortOptions(["images"], coco, yolo)).toThrow(/KEY=VALUE/);
  });
  it("of every format have values, a default and an example that is taken", () => {
    for (const format of formats) {
      for (const when of ["reading", "writing"] as const) {
        for (const option of declaredOptions(format, when)) {
          expect(() =>
            when === "reading" ? sortOptions([option.example], format) : sortOptions([option.example], coco, format),
          ).not.toThrow();
          expect(option.default).not.toBe("");
        }
      }
    }
  });
});

describe("pictures", () => {
  it("are left out on request, and the package still reads back", async () => {
    const { tree, package_ } = await written(yolo, { images: "none" });
    expect([...tree.files.keys()].filter((path) => path.startsWith("images/"))).toEqual([]);
    expect([package_.images, package_.objects]).toEqual([2, 1]);
    await verifyPackage(yolo, tree, package_, { images: "none" });
  });
  it("stand in each of their classes' folders, or are left out where their objects disagree", async () => {
    const tree = new MemoryTree({}, 4096);
    const report = new Findings();
    const box = { kind: "box" as const, x: 1, y: 2, width: 3, height: 4 };
    const several = [
      outgoing("a.jpg", "train", [], undefined, { state: "labeled" as const, classes: ["roll", "a/b"] }),
      outgoing("b.jpg", "train", [
        { class: "roll", shape: box },
        { class: "roll", shape: box },
      ]),
      outgoing("c.jpg", "train", [
        { class: "roll", shape: box },
        { class: "a/b", shape: box },
      ]),
    ];
    const package_ = await writePackage(
      classFolders,
      {
        title: "t",
        classes: [{ name: "roll" }, { name: "a/b" }],
        notes: [],
        items: (async function* () {
          yield* several;
        })(),
      },
      tree,
      {},
      report,
    );
    await verifyPackage(classFolders, tree, package_, {});
    expect([...tree.files.keys()].sort()).toEqual([
      "README.txt",
      "folder-names.csv",
      "larder-sources.csv",
      "train/a_b/a.jpg",
      "train/roll/a.jpg",
      "train/roll/b.jpg",
    ]);
    expect(tree.text("larder-sources.csv").split("\n").slice(0, 4)).toEqual([
      "source,delivery,output,copy,split",
      "a.jpg,,train/roll/a.jpg,0,train",
      "a.jpg,,train/a_b/a.jpg,0,train",
      "b.jpg,,train/roll/b.jpg,0,train",
    ]);
    expect(Object.fromEntries(report.list().map(({ code, count }) => [code, count]))).toEqual({
      "folder-renamed": 1,
      "loss-image-class": 1,
      "loss-object": 5,
    });
  });
});
