/** kitti, open-images, jsonl, image-list: one small source each with the traps its format has. */
import { describe, expect, it } from "vitest";
import { MemoryTree } from "../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../tests/reading";
import { imageList } from "./image-list/index";
import { areDetections, isDetection, labelVector } from "./image-list/label-vector";
import { jsonl } from "./jsonl/index";
import { kitti } from "./kitti/index";
import { openImages } from "./open-images/index";
import { encodeRecord, readRecords } from "./recordio/records";
import { settle } from "./settle";

const facts = { width: 200, height: 100, orientation: 1 };
const row = (type: string, rest: string) => `${type} ${rest}\n`;

describe("kitti", () => {
  it("reads fifteen and sixteen columns, leaves regions to ignore aside, and keeps what is known in 3D", async () => {
    const label =
      row("Roll", "0.30 1 -1.57 10.5 20 30 40 1.5 1.6 3.7 2.1 1.4 8.4 -1.5") +
      row("Tart", "0 0 -10 1 2 3 4 -1 -1 -1 -1000 -1000 -1000 -10 0.9") +
      row("DontCare", "-1 -1 -10 5 5 9 9 -1 -1 -1 -1000 -1000 -1000 -10") +
      "broken line\n";
    const { items, codes, classes } = await readAll(
      kitti,
      new MemoryTree({
        "training/image_2/000001.png": picture,
        "training/label_2/000001.txt": label,
        "training/image_2/000002.png": picture,
        "training/label_2/000002.txt": "\n",
        "training/image_2/000003.png": picture,
        "training/label_2/000009.txt": "",
      }),
    );
    expect(classes).toEqual(["Roll", "Tart"]);
    expect(items.get("training/image_2/000001.png")).toMatchObject({
      split: "train",
      objects: [
        {
          class: "Roll",
          truncated: true,
          occluded: true,
          shape: { x: 10.5, y: 20, width: 19.5, height: 20 },
          attributes: { alpha: -1.57, height: 1.5, length: 3.7, z: 8.4, rotation_y: -1.5 },
        },
        { class: "Tart", confidence: 0.9 },
      ],
    });
    expect(items.get("training/image_2/000001.png")?.objects[1]?.attributes).toBeUndefined();
    expect(["000002", "000003"].map((name) => items.get(`training/image_2/${name}.png`)?.state)).toEqual([
      "empty",
      "unlabeled",
    ]);
    expect(codes).toEqual({ "shape-degenerate": 1, "image-missing": 1 });
  });
  it("writes blanks as underscores without two classes sharing a type, and numbers where 3D is not known", async () => {
    const box = { kind: "box" as const, x: 1, y: 2, width: 3, height: 4 };
    const { tree, classes, losses } = await roundTrip(
      kitti,
      [{ name: "rye bread" }, { name: "rye_bread" }],
      [
        outgoing("a.png", "val", [
          { class: "rye bread", shape: box, occluded: true },
          { class: "rye_bread", shape: box, difficult: true },
        ]),
      ],
    );
    expect(tree.text("training/label_2/a.txt")).toBe(
      "rye_bread_2 0 1 -10 1 2 4 6 -1 -1 -1 -1000 -1000 -1000 -10\nrye_bread 0 0 -10 1 2 4 6 -1 -1 -1 -1000 -1000 -1000 -10\n",
    );
    expect(classes.sort()).toEqual(["rye_bread", "rye_bread_2"]);
    expect(losses).toEqual({ "loss-attributes": 1 });
  });
});

describe("open-images", () => {
  const header =
    "ImageID,Source,LabelName,Confidence,XMin,XMax,YMin,YMax,IsOccluded,IsTruncated,IsGroupOf,IsDepiction,IsInside\n";
  it("takes edges in the published order, names from codes, and confidence 0 as nothing said", async () => {
    const { items, codes, classes, report } = await readAll(
      openImages,
      new MemoryTree({
        "train/a1.jpg": picture,
        "train/b2.jpg": picture,
        "validation/a1.jpg": picture,
        "class-descriptions.csv": '/m/1,Roll\n/m/2,"Tart, sweet"\n',
        "train-annotations-bbox.csv": `${header}a1,x,/m/1,1,0.1,0.5,0.2,0.4,1,0,1,1,0\na1,x,/m/9,1,0,1,0,1,0,0,0,0,0\nzz,x,/m/1,1,0,1,0,1,0,0,0,0,0\n`,
        "train-annotations-human-imagelabels.csv": "ImageID,Source,LabelName,Confidence\na1,v,/m/2,1\nb2,v,/m/1,0\n",
      }),
    );
    expect(classes).toEqual(["Roll", "Tart, sweet"]);
    const item = settle(items.get("train/a1.jpg") as never, facts, report);
    expect(item.objects[0]?.shape).toMatchObject({ kind: "box", x: 20, y: 20, height: 20 });
    expect(item.objects[0]?.shape).toHaveProperty("width", 80);
    expect(item).toMatchObject({
      classes: ["Tart, sweet"],
      objects: [{ occluded: true, crowd: true, attributes: { depiction: true } }],
    });
    expect([
      items.get("train/b2.jpg")?.state,
      items.get("validation/a1.jpg")?.state,
      items.get("validation/a1.jpg")?.split,
    ]).toEqual(["unlabeled", "unlabeled", "val"]);
    expect(codes).toEqual({ "class-unknown": 1, "image-missing": 1 });
  });
  it("writes XMax before YMin", async () => {
    const { tree } = await roundTrip(
      openImages,
      [{ name: "roll" }],
      [outgoing("a.jpg", "train", [{ class: "roll", shape: { kind: "box", x: 96, y: 72, width: 96, height: 144 } }])],
    );
    expect(tree.text("train-annotations-bbox.csv").split("\n")[1]).toBe("a,larder,/c/0001,1,0.1,0.2,0.1,0.3,0,0,0,0,0");
  });
});

describe("jsonl", () => {
  it("reads every kind of line, a document's ground truth, and lines that are broken", async () => {
    const lines = [
      {
        file_name: "a.jpg",
        objects: {
          bbox: [
            [1, 2, 3, 4],
            [5, 6, null, 8],
          ],
          category: ["roll", "tart"],
        },
        text: "a roll",
      },
      { file_name: "b.jpg", labels: ["roll", "warm"], fields: { oven: 3, toppings: ["salt"] } },
      {
        file_name: "c.jpg",
        ground_truth: JSON.stringify({ gt_parse: { total: "4.50", items: [{ name: "roll" }], tags: ["x", "y"] } }),
      },
      { file_name: "d.jpg", objects: { bbox: [], category: [] } },
      { file_name: "e.jpg" },
      { text: "no name" },
    ];
    const text = `${lines.map((line) => JSON.stringify(line)).join("\r\n")}\n{"file_name": "f.jpg", "label": NaN\n\n`;
    const { items, codes, classes } = await readAll(
      jsonl,
      new MemoryTree({
        ...Object.fromEntries([..."abcdef"].map((name) => [`train/${name}.jpg`, picture])),
        "train/metadata.jsonl": text,
      }),
    );
    expect(classes).toEqual(["roll", "warm"]);
    expect(items.get("train/a.jpg")).toMatchObject({
      split: "train",
      captions: ["a roll"],
      objects: [{ class: "roll", shape: { x: 1, y: 2, width: 3, height: 4 } }],
    });
    expect(items.get("train/b.jpg")).toMatchObject({
      classes: ["roll", "warm"],
      fields: { oven: "3", toppings: ["salt"] },
    });
    expect(items.get("train/c.jpg")?.fields).toEqual({ total: "4.50", "items.0.name": "roll", tags: ["x", "y"] });
    expect([..."def"].map((name) => items.get(`train/${name}.jpg`)?.state)).toEqual([
      "empty",
      "unlabeled",
      "unlabeled",
    ]);
    expect(codes).toEqual({ "annotation-unreadable": 2, "shape-degenerate": 1 });
  });
});

describe("image-list", () => {
  it("reads class numbers and detection rows, each list by its own kind", async () => {
    expect([
      isDetection([2, 5, 0, 0.1, 0.1, 0.2, 0.2]),
      isDetection([2, 5]),
      isDetection([0, 1]),
      isDetection([3, 6, 9, 0, 0.1, 0.1, 0.2, 0.2, 7]),
    ]).toEqual([true, true, false, true]);
    expect([
      areDetections([[2, 5]]),
      areDetections([[3, 5, 0]]),
      areDetections([
        [2, 5, 0, 0.1, 0.1, 0.2, 0.2],
        [2, 5],
      ]),
      areDetections([]),
      labelVector([2, 5]),
    ]).toEqual([true, false, true, false, [5, 2]]);
    const tree = new MemoryTree({
      "x/a.jpg": picture,
      "x/b.jpg": picture,
      "x/c.jpg": picture,
      "classes.txt": "roll\ntart\n",
      "train.lst": "0\t1\tx/a.jpg\n1\t0\t7\tx/b.jpg\n",
      "val.lst": "5\t2\t5\t1\t0.1\t0.2\t0.5\t0.4\tx/c.jpg\n",
    });
    const { items, codes, report } = await readAll(imageList, tree);
    expect([items.get("x/a.jpg")?.classes, items.get("x/b.jpg")?.classes, items.get("x/b.jpg")?.split]).toEqual([
      ["tart"],
      ["roll"],
      "train",
    ]);
    expect(settle(items.get("x/c.jpg") as never, facts, report).objects[0]).toEqual({
      class: "tart",
      shape: { kind: "box", x: 20, y: 20, width: 80, height: 20 },
    });
    expect(codes).toEqual({ "class-unknown": 1 });
  });
  it("packs records whose pictures hold the magic number, and reads them back byte for byte", async () => {
    const tricky = new Uint8Array(64);
    // At a multiple of four within the record, twice: the header takes 24 bytes.
    for (const at of [8, 40]) tricky.set([0x0a, 0x23, 0xd7, 0xce], at);
    const record = encodeRecord(7, [3], tricky);
    expect(record.length % 4).toBe(0);
    const read = [];
    for await (const entry of readRecords(
      (async function* () {
        for (let i = 0; i < record.length; i += 5) yield record.subarray(i, i + 5);
      })(),
    ))
      read.push(entry);
    expect(read).toHaveLength(1);
    const bytes = (read[0]?.pieces ?? []).flatMap(([offset, length]) => [...record.subarray(offset, offset + length)]);
    expect(Uint8Array.from(bytes)).toEqual(tricky);
    expect(read[0]).toMatchObject({ id: 7, labels: [3] });
    // Header by hand: magic, length 24 + 1, flag 0, label 2.0, id 9, id2 0, one byte, padded to four.
    const hand = Buffer.concat([
      Buffer.from([0x0a, 0x23, 0xd7, 0xce, 25, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0x40, 9, 0, 0, 0, 0, 0, 0, 0]),
      Buffer.alloc(8),
      Buffer.from([0xff, 0, 0, 0]),
    ]);
    expect(Buffer.from(encodeRecord(9, [2], Uint8Array.of(0xff)))).toEqual(hand);
  });
  it("writes records with an index, and reads them by the list beside them", async () => {
    const { tree, back } = await roundTrip(
      imageList,
      [{ name: "roll" }],
      [
        outgoing("a.jpg", "train", [{ class: "roll", shape: { kind: "box", x: 96, y: 72, width: 96, height: 144 } }]),
        outgoing("b.jpg", "train", []),
      ],
      { pack: "recordio", kind: "boxes" },
    );
    expect([...tree.files.keys()].sort()).toEqual([
      "README.txt",
      "classes.txt",
      "larder-sources.csv",
      "train.idx",
      "train.lst",
      "train.rec",
    ]);
    expect(tree.text("train.idx")).toBe("0\t0\n1\t64\n");
    expect(back.map((item) => [item.path, item.state])).toEqual([
      ["images/train/a.jpg", "labeled"],
      ["images/train/b.jpg", "empty"],
    ]);
  });
});
