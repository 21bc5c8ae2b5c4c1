import { describe, expect, it } from "vitest";
import { Failure } from "../model/failure";
import { Findings } from "../model/finding";
import { blankItem } from "../model/item";
import { MemoryTree } from "../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../tests/reading";
import { classFolders } from "./class-folders/index";
import { coco } from "./coco/index";
import { fitItem } from "./fit";
import { settle } from "./settle";
import { sniff } from "./sniff";
import { yolo } from "./yolo/index";

const best = async (files: Record<string, string | Uint8Array>) => (await sniff(new MemoryTree(files)))[0]?.format.name;

describe("sniff", () => {
  it("works the format out from the listing and small peeks", async () => {
    expect(await best({ "images/a.jpg": picture, "x.json": '{"info": {}, "images": [], "annotations": []}' })).toBe(
      "coco",
    );
    expect(await best({ "images/a.jpg": picture, "labels/a.txt": "0 .5 .5 .1 .1", "data.yaml": "names: [a]" })).toBe(
      "yolo",
    );
    expect(await best({ "a.jpg": picture, "a.xml": "<annotation></annotation>" })).toBe("voc");
    expect(await best({ "ready/a.jpg": picture, "over/b.jpg": picture })).toBe("class-folders");
    expect(await best({ "a.jpg": picture, "notes.json": '{"weather": "fine"}' })).toBe("images-only");
  });
  it("names folders that could be classes beside annotations of another kind, but no folders that layouts are made of", async () => {
    const scores = async (files: Record<string, string | Uint8Array>) =>
      (await sniff(new MemoryTree(files))).filter(({ score }) => score >= 0.5).map(({ format }) => format.name);
    const json = '{"images": [], "annotations": []}';
    expect(await scores({ "rye/a.jpg": picture, "tart/b.jpg": picture, "x.json": json })).toEqual([
      "coco",
      "class-folders",
    ]);
    expect(await scores({ "train2017/a.jpg": picture, "val2017/a.jpg": picture, "x.json": json })).toEqual(["coco"]);
    expect(
      await scores({
        "JPEGImages/a.jpg": picture,
        "SegmentationClass/a.png": picture,
        "SegmentationObject/a.png": picture,
        "Annotations/a.xml": "<annotation></annotation>",
      }),
    ).toEqual(["voc"]);
    expect(
      await scores({
        "a.jpg": picture,
        "b.jpg": picture,
        "a.xml": "<annotation></annotation>",
        "b.txt": "0 .5 .5 .1 .1",
      }),
    ).toEqual(["voc", "yolo"]);
  });
  it("says in a sentence that there is nothing to read", async () => {
    await expect(sniff(new MemoryTree({}))).rejects.toThrow(Failure);
    await expect(sniff(new MemoryTree({ "a.doc": "x" }))).rejects.toThrow(/no picture/);
  });
});

describe("class-folders", () => {
  it("reads classes and splits from folders, below what all share", async () => {
    const { items, classes } = await readAll(
      classFolders,
      new MemoryTree({
        "set/train/half baked.1/a.jpg": picture,
        "set/val/over/a.jpg": picture,
        "set/train/_unlabeled/b.jpg": picture,
      }),
    );
    expect(classes).toEqual(["half baked.1", "over"]);
    expect([...items.values()].map(({ classes: classes, split, state }) => [classes, split, state])).toEqual([
      [["half baked.1"], "train", "labeled"],
      [["over"], "val", "labeled"],
      [[], "train", "unlabeled"],
    ]);
  });
  it("comes back as it was written", async () => {
    const { back, tree } = await roundTrip(
      classFolders,
      [{ name: "over" }],
      [
        outgoing("x/a.jpg", "train", [], undefined, { state: "labeled", classes: ["over"] }),
        outgoing("y/b.jpg", "val", [], undefined, { state: "labeled", classes: ["ready"] }),
      ],
    );
    expect([...tree.files.keys()]).toEqual(["train/over/a.jpg", "val/ready/b.jpg", "README.txt", "larder-sources.csv"]);
    expect(back.map(({ classes, split }) => [classes, split])).toEqual([
      [["over"], "train"],
      [["ready"], "val"],
    ]);
  });
});

describe("settle", () => {
  const facts = { width: 100, height: 80, orientation: 1 };
  const box = (x: number, y: number, width: number, height: number) => ({
    class: "roll",
    shape: { kind: "box" as const, x, y, width, height },
  });
  it("clips, drops and counts, each with its finding", () => {
    const report = new Findings();
    const item = {
      ...blankItem("a.jpg"),
      state: "labeled" as const,
      declared: { width: 50, height: 80 },
      objects: [box(-5, 0, 20, 20), box(10, 10, 0, 5), box(200, 200, 10, 10), box(30, 30, 5, 5), box(30, 30, 5, 5)],
    };
    const settled = settle(item, { ...facts, orientation: 6 }, report);
    expect(settled.objects.map(({ shape }) => shape)).toEqual([
      { kind: "box", x: 0, y: 0, width: 15, height: 20 },
      { kind: "box", x: 30, y: 30, width: 5, height: 5 },
      { kind: "box", x: 30, y: 30, width: 5, height: 5 },
    ]);
    expect(Object.fromEntries(report.list().map(({ code, count }) => [code, count]))).toEqual({
      "box-outside-image": 2,
      "shape-degenerate": 2,
      "object-duplicate": 1,
      "size-mismatch": 1,
      "exif-rotated": 1,
    });
  });
  it("does not call an image empty whose only shapes had to be dropped", () => {
    expect(
      settle({ ...blankItem("a.jpg"), state: "labeled", objects: [box(500, 0, 5, 5)] }, facts, new Findings()).state,
    ).toBe("unlabeled");
    expect(settle({ ...blankItem("a.jpg"), state: "empty" }, facts, new Findings()).state).toBe("empty");
  });
});

describe("findings", () => {
  it("say a hundred thousand problems in one line with up to three examples", () => {
    const report = new Findings();
    for (let i = 0; i < 100_000; i++) report.add("image-missing", `p${i}.jpg`);
    expect(report.list()).toEqual([
      {
        severity: "error",
        code: "image-missing",
        path: "p0.jpg",
        count: 100_000,
        message:
          "100,000 annotations name images that are not there; they are left out. For example: p0.jpg · p1.jpg · p2.jpg",
        sentence: "100,000 annotations name images that are not there; they are left out.",
        examples: ["p0.jpg", "p1.jpg", "p2.jpg"],
      },
    ]);
  });
  it("merge counts and keep examples", () => {
    const report = new Findings();
    report.add("image-empty", "a.jpg");
    const other = new Findings();
    other.add("image-empty", "b.jpg", undefined, 4);
    report.merge(other.list());
    expect(report.list()[0]).toMatchObject({
      count: 5,
      path: "a.jpg",
      message: "5 images are annotated as holding nothing. For example: a.jpg · b.jpg",
    });
  });
});

describe("fitItem", () => {
  it("announces from what a format declares, and brings shapes down the ladder", () => {
    const item = outgoing(
      "a.jpg",
      null,
      [
        {
          class: "roll",
          attributes: { bake: "pale" },
          shape: {
            kind: "polygon",
            parts: [
              [
                [0, 0, 9, 0, 9, 9],
                [5, 1, 8, 1, 8, 4],
              ],
            ],
          },
        },
        {
          class: "roll",
          shape: {
            kind: "keypoints",
            points: [
              { x: 5, y: 6, v: 2 },
              { x: 8, y: 16, v: 1 },
            ],
          },
        },
      ],
      undefined,
      { captions: ["x"], classes: ["y"] },
    );
    const fitted = (format: typeof coco) => {
      const report = new Findings();
      const kept = fitItem(item, format, {}, report);
      return {
        kept,
        codes: report
          .list()
          .map(({ code }) => code)
          .sort(),
      };
    };
    const asYolo = fitted(yolo);
    expect(asYolo.codes).toEqual([
      "loss-attributes",
      "loss-caption",
      "loss-image-class",
      "loss-keypoints",
      "loss-mask",
      "loss-split",
    ]);
    expect(asYolo.kept).toMatchObject({
      split: "train",
      classes: [],
      captions: [],
      objects: [
        { class: "roll", shape: { kind: "box", x: 0, y: 0, width: 9, height: 9 } },
        { class: "roll", shape: { kind: "box", x: 5, y: 6, width: 3, height: 10 } },
      ],
    });
    const asCoco = fitted(coco);
    expect(asCoco.codes).toEqual(["loss-image-class"]);
    expect(asCoco.kept?.objects.map(({ shape }) => shape.kind)).toEqual(["mask", "keypoints"]);
  });
});
