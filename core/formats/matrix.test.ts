import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "../geometry/run-length";
import { Findings } from "../model/finding";
import { blankItem, type ClassInfo, type LabeledObject, type Split } from "../model/item";
import type { Shape } from "../model/shape";
import { MemoryTree } from "../tests/memory-tree";
import { fitItem } from "./fit";
import type { Format, Options, OutgoingItem } from "./format";
import { openPicture } from "./open-picture";
import { formats } from "./registry";
import { settle } from "./settle";
import { sniff } from "./sniff";
import { verifyPackage, writePackage } from "./write-package";

const size = { width: 120, height: 80 };
const classes: ClassInfo[] = [
  { name: "roll" },
  { name: "rye, dark" },
  { name: "pretzel", keypoints: ["left loop", "right loop", "knot"] },
  { name: "=sum" },
];

const bitmap = new Uint8Array(size.width * size.height);
for (let y = 50; y < 70; y++)
  for (let x = 10; x < 40; x++) if (!(x > 18 && x < 28 && y > 55 && y < 62)) bitmap[y * size.width + x] = 1;
const shapes: Record<string, Shape> = {
  box: { kind: "box", x: 3.25, y: 4.5, width: 30.125, height: 20.75 },
  rotated: { kind: "rotated-box", cx: 80, cy: 20, width: 24, height: 10, angle: 0.4 },
  outline: { kind: "polygon", parts: [[[50.5, 30.5, 70.5, 32.5, 68, 47, 52, 45]]] },
  parts: { kind: "polygon", parts: [[[90, 50, 100, 50, 100, 60, 90, 60]], [[105, 50, 115, 50, 115, 72, 105, 72]]] },
  mask: { kind: "mask", ...size, counts: runsFromBitmap(bitmap, size.width, size.height) },
  pose: {
    kind: "keypoints",
    points: [
      { x: 44, y: 60, v: 2 },
      { x: 60, y: 61, v: 1 },
      { x: 0, y: 0, v: 0 },
    ],
    box: { x: 42, y: 55, width: 22, height: 16 },
  },
};
const named = (name: string, shape: Shape | undefined, more: Partial<LabeledObject> = {}): LabeledObject => ({
  class: name,
  shape: shape as Shape,
  ...more,
});

async function collection(): Promise<OutgoingItem[]> {
  const jpeg = await sharp({ create: { ...size, channels: 3, background: "#b58" } })
    .jpeg()
    .toBuffer();
  const item = (path: string, split: Split | null, more: Partial<OutgoingItem>): OutgoingItem => ({
    ...blankItem(path),
    split,
    size,
    open: () => Promise.resolve(jpeg),
    ...more,
  });
  const labeled = (path: string, split: Split | null, objects: LabeledObject[], more: Partial<OutgoingItem> = {}) =>
    item(path, split, { state: "labeled", objects, ...more });
  return [
    labeled("a/one.jpg", "train", [named("roll", shapes["box"]), named("rye, dark", shapes["outline"])]),
    // The same base name again, from another folder.
    labeled("b/one.jpg", "train", [
      named("roll", shapes["mask"], { crowd: true }),
      named("roll", shapes["parts"]),
      named("pretzel", shapes["pose"]),
    ]),
    labeled("Brötchen 2.v1.jpg", "val", [
      named("rye, dark", shapes["rotated"], { truncated: true, occluded: true, confidence: 0.75 }),
      named("=sum", shapes["box"], { difficult: true, attributes: { bake: "pale", pose: "Left" } }),
    ]),
    labeled("many.jpg", "test", [], {
      classes: ["roll", "=sum"],
      captions: ["two of them", "seen from above"],
      fields: { oven: "3", toppings: ["salt", "poppy"] },
    }),
    labeled("single.jpg", "test", [], { classes: ["rye, dark"] }),
    labeled("loose.jpg", null, [named("pretzel", { kind: "box", x: 0, y: 0, width: 120, height: 80 })]),
    item("empty.jpg", "train", { state: "empty" }),
    item("nobody.jpg", "val", { state: "unlabeled" }),
  ];
}

async function write(
  format: Format,
  items: OutgoingItem[],
  names: ClassInfo[],
  asked: Options = {},
): Promise<{ tree: MemoryTree; codes: Record<string, number>; foreseen: Record<string, number>; images: number }> {
  const survey = { objects: items.reduce((sum, item) => sum + item.objects.length, 0), imageClasses: 0 };
  const options = format.surveyed?.(survey, asked) ?? asked;
  const [report, before] = [new Findings(), new Findings()];
  for (const item of items) fitItem(item, format, options, before);
  const tree = new MemoryTree({}, 65536);
  const written = await writePackage(
    format,
    {
      title: "Matrix",
      classes: names,
      notes: [],
      items: (async function* () {
        yield* items;
      })(),
    },
    tree,
    options,
    report,
  );
  await verifyPackage(format, tree, written, options);
  const counted = (findings: Findings) => Object.fromEntries(findings.list().map(({ code, count }) => [code, count]));
  return { tree, codes: counted(report), foreseen: counted(before), images: written.images };
}

async function readBack(
  format: Format,
  tree: MemoryTree,
): Promise<{ items: OutgoingItem[]; classes: ClassInfo[]; codes: Record<string, number> }> {
  const report = new Findings();
  const reading = await format.read(tree, format.readsBackWith?.({}) ?? {}, report);
  const items: OutgoingItem[] = [];
  for await (const item of reading.items)
    items.push({ ...settle(item, { ...size, orientation: 1 }, report), size, open: () => openPicture(tree, item) });
  return {
    items,
    classes: reading.classes,
    codes: Object.fromEntries(
      report
        .list()
        .filter(({ severity }) => severity === "error")
        .map(({ code, count }) => [code, count]),
    ),
  };
}

const written = formats.filter((format) => format.write);

describe("every format to every format", () => {
  it("writes seventeen", () => expect(written).toHaveLength(17));

  it.each(written.map((format) => format.name))("%s and from it to all others", async (name) => {
    const source = formats.find((format) => format.name === name) as Format;
    const original = await collection();
    const first = await write(source, original, classes);
    // What was announced before writing is what writing announced.
    expect(first.codes).toEqual(first.foreseen);
    const back = await readBack(source, first.tree);
    expect(back.codes).toEqual({});
    expect(back.items).toHaveLength(first.images);
    for (const item of back.items) expect((await item.open()).length, item.path).toBeGreaterThan(100);
    for (const target of written) {
      const second = await write(target, back.items, back.classes);
      expect(second.codes, target.name).toEqual(second.foreseen);
      const again = await readBack(target, second.tree);
      expect(again.codes, `${name} to ${target.name}`).toEqual({});
      expect(again.items, `${name} to ${target.name}`).toHaveLength(second.images);
    }
  });

  it.each(written.map((format) => format.name))("%s is recognised for what it is", async (name) => {
    const format = formats.find((candidate) => candidate.name === name) as Format;
    const { tree } = await write(format, await collection(), classes);
    expect((await sniff(tree))[0]?.format.name).toBe(name);
  });

  it("gives back what it carries, object by object", async () => {
    const carried: Record<string, string[]> = {};
    for (const format of written) {
      const { tree } = await write(format, await collection(), classes);
      const { items } = await readBack(format, tree);
      carried[format.name] = [
        ...new Set(items.flatMap((item) => item.objects.map((object) => object.shape.kind))),
      ].sort();
    }
    expect(carried).toEqual({
      coco: ["box", "keypoints", "mask", "polygon"],
      voc: ["box"],
      yolo: ["box"],
      "yolo-seg": ["polygon"],
      "yolo-pose": ["box", "keypoints"],
      "yolo-obb": ["rotated-box"],
      "class-folders": [],
      "csv-boxes": ["box"],
      "csv-labels": [],
      "open-images": ["box"],
      kitti: ["box"],
      masks: ["mask"],
      tfrecord: ["box", "mask"],
      webdataset: ["box", "keypoints", "mask", "polygon", "rotated-box"],
      "image-list": ["box"],
      jsonl: ["box"],
      parquet: ["box"],
    });
  });
});
