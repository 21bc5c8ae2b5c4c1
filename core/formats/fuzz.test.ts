/** Every reader on thousands of damaged sources: it may report anything, but never crashes, hangs or swells. */
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "../geometry/run-length";
import { Failure } from "../model/failure";
import { Findings } from "../model/finding";
import { blankItem, type ClassInfo, type LabeledObject } from "../model/item";
import { uniform } from "../model/seeded";
import { MemoryTree } from "../tests/memory-tree";
import type { Format, OutgoingItem } from "./format";
import { openPicture } from "./open-picture";
import { formats } from "./registry";
import { settle } from "./settle";
import { writePackage } from "./write-package";

const size = { width: 24, height: 16 };
const classes: ClassInfo[] = [{ name: "roll", keypoints: ["left", "right"] }, { name: "tart, sweet" }];
const roundsAFormat = 250;

async function valid(format: Format): Promise<MemoryTree> {
  const jpeg = await sharp({ create: { ...size, channels: 3, background: "#b58" } })
    .jpeg()
    .toBuffer();
  const bits = new Uint8Array(size.width * size.height).fill(1, 30, 60);
  const objects: LabeledObject[] = [
    { class: "roll", shape: { kind: "box", x: 1, y: 2, width: 9, height: 7 }, truncated: true, confidence: 0.5 },
    { class: "tart, sweet", shape: { kind: "polygon", parts: [[[2, 2, 12, 3, 8, 12]]] }, attributes: { bake: "pale" } },
    { class: "tart, sweet", shape: { kind: "mask", ...size, counts: runsFromBitmap(bits, size.width, size.height) } },
    {
      class: "roll",
      shape: {
        kind: "keypoints",
        points: [
          { x: 3, y: 4, v: 2 },
          { x: 9, y: 8, v: 1 },
        ],
      },
    },
    { class: "roll", shape: { kind: "rotated-box", cx: 10, cy: 8, width: 6, height: 3, angle: 0.3 } },
    { class: "roll", shape: { kind: "line", points: [1, 1, 8, 5, 12, 2] } },
    {
      class: "tart, sweet",
      shape: {
        kind: "polygon",
        parts: [
          [
            [1, 1, 14, 1, 14, 12, 1, 12],
            [4, 4, 4, 8, 8, 8, 8, 4],
          ],
        ],
      },
    },
  ];
  const item = (path: string, more: Partial<OutgoingItem>): OutgoingItem => ({
    ...blankItem(path),
    size,
    state: "labeled",
    split: "train",
    open: () => Promise.resolve(jpeg),
    ...more,
  });
  const items = [
    item("a.jpg", { objects }),
    item("b.jpg", { classes: ["roll"], captions: ["warm"], fields: { oven: "3" }, split: "val" }),
    item("c.jpg", { state: "empty" }),
  ];
  const tree = new MemoryTree({}, 512);
  await writePackage(
    format,
    {
      title: "t",
      classes,
      notes: [],
      items: (async function* () {
        yield* items;
      })(),
    },
    tree,
    format.surveyed?.({ objects: 5, imageClasses: 1 }, {}) ?? {},
    new Findings(),
  );
  return tree;
}

const insertions = [
  "NaN",
  "-1e999",
  "\u0000",
  '"',
  "{",
  "]",
  "\uFEFF",
  "../../x",
  "999999999999999999",
  "<!ENTITY",
  "\t\t",
  "\r",
  "é\uD800",
  "null",
  ",,,",
  "%",
  "-",
];

/** One of the ways in which files come damaged. */
function mutate(bytes: Uint8Array, pick: (limit: number) => number): Uint8Array {
  const copy = Uint8Array.from(bytes);
  if (copy.length === 0) return copy;
  const at = pick(copy.length);
  switch (pick(6)) {
    case 0:
      return copy.subarray(0, at);
    case 1:
      for (let n = 0; n < 4; n++) copy[pick(copy.length)] = pick(256);
      return copy;
    case 2:
      copy[at] = (copy[at] as number) ^ (1 << pick(8));
      return copy;
    case 3: {
      const end = Math.min(copy.length, at + 1 + pick(40));
      return Buffer.concat([copy.subarray(0, at), copy.subarray(end)]);
    }
    case 4:
      return Buffer.concat([
        copy.subarray(0, at),
        Buffer.from(insertions[pick(insertions.length)] ?? ""),
        copy.subarray(at),
      ]);
    default: {
      const end = Math.min(copy.length, at + 1 + pick(200));
      return Buffer.concat([copy.subarray(0, end), copy.subarray(at, end), copy.subarray(end)]);
    }
  }
}

async function readWhole(format: Format, tree: MemoryTree): Promise<number> {
  const report = new Findings();
  const reading = await format.read(tree, {}, report);
  let items = 0;
  for await (const item of reading.items) {
    items++;
    const settled = settle(item, { ...size, orientation: 1 }, report);
    // What comes through holds numbers only, inside the image.
    for (const { shape } of settled.objects)
      if (shape.kind === "box")
        expect(
          shape.x >= 0 &&
            shape.y >= 0 &&
            shape.x + shape.width <= size.width + 1e-6 &&
            shape.y + shape.height <= size.height + 1e-6,
        ).toBe(true);
    if (item.present) expect(item.path.split("/")).not.toContain("..");
    if (item.present && item.inside)
      await openPicture(tree, item).catch((error: unknown) => expect(error).toBeInstanceOf(Failure));
  }
  for (const finding of report.list()) expect(finding.message.length).toBeLessThan(1500);
  return items;
}

describe("damaged sources", () => {
  it.each(formats.filter((format) => format.write).map((format) => format.name))(
    "%s",
    async (name) => {
      const format = formats.find((candidate) => candidate.name === name) as Format;
      const tree = await valid(format);
      const targets = [...tree.files.keys()].filter((path) => !/\.(jpg)$|^README/.test(path));
      const before = process.memoryUsage().rss;
      let longest = 0;
      for (let round = 0; round < roundsAFormat; round++) {
        let draw = 0;
        const pick = (limit: number) => Math.floor(uniform("fuzz", name, round, draw++) * limit);
        const damaged = new MemoryTree({}, 512);
        const victim = targets[pick(targets.length)];
        for (const [path, bytes] of tree.files) damaged.files.set(path, path === victim ? mutate(bytes, pick) : bytes);
        const began = performance.now();
        try {
          expect(await readWhole(format, damaged)).toBeLessThan(1000);
        } catch (error) {
          throw new Error(`round ${round}, ${victim ?? "nothing"}: ${String((error as Error).stack)}`);
        }
        longest = Math.max(longest, performance.now() - began);
      }
      expect(longest).toBeLessThan(20_000);
      expect(process.memoryUsage().rss - before).toBeLessThan(2 ** 30);
    },
    300_000,
  );
});
