import { describe, expect, it } from "vitest";
import { blankItem, type Item } from "../model/item";
import { defaultTarget, suitedFormat, holdingsOf } from "./default-target";
import { packageFormats } from "./registry";

async function* stream(items: Partial<Item>[]): AsyncIterable<Item> {
  for (const item of items) yield { ...blankItem("a.jpg"), ...item };
}
const box = { class: "roll", shape: { kind: "box" as const, x: 0, y: 0, width: 1, height: 1 } };
const outline = { class: "roll", shape: { kind: "polygon" as const, parts: [[[0, 0, 4, 0, 4, 4]]] } };
const targetOf = async (from: string, ...items: Partial<Item>[]) =>
  defaultTarget(from, await holdingsOf({ items: stream(items) })).to;

describe("the format of a new plan", () => {
  it.each([
    [["box"], 0, 0, "yolo"],
    [["box", "polygon"], 0, 0, "yolo-seg"],
    [["mask"], 0, 0, "yolo-seg"],
    [["rotated-box"], 0, 0, "yolo-obb"],
    [["keypoints", "box"], 0, 0, "yolo-pose"],
    [["keypoints", "polygon"], 0, 0, "coco"],
    [[], 5, 0, "class-folders"],
    [[], 5, 2, "jsonl"],
    [[], 0, 0, "yolo"],
  ] as const)("follows what the stock holds: %j", (kinds, imageClasses, texts, format) => {
    expect(suitedFormat({ kinds: new Set(kinds), imageClasses, texts })).toBe(format);
  });
});

describe("the format a source goes to where nobody named one", () => {
  it("follows from what it holds", async () => {
    expect(await targetOf("voc", { objects: [box] })).toBe("coco");
    expect(await targetOf("coco", { objects: [box] })).toBe("yolo");
    expect(await targetOf("coco", { objects: [box] }, { objects: [outline] })).toBe("yolo-seg");
    expect(await targetOf("csv-labels", { classes: ["roll"] }, {})).toBe("class-folders");
    expect(await targetOf("csv-labels", { classes: ["roll", "tart"] })).toBe("jsonl");
    expect(await targetOf("webdataset", { captions: ["warm"] })).toBe("jsonl");
    expect(await targetOf("images-only", {})).toBe("class-folders");
  });
  it("can be written, and is never the one it came in", () => {
    for (const from of packageFormats) {
      for (const objects of [0, 1])
        for (const outlines of [0, objects])
          for (const mostClasses of [0, 1, 2])
            for (const texts of [0, 1]) {
              const { to, reason } = defaultTarget(from, { objects, outlines, mostClasses, texts });
              expect(packageFormats).toContain(to);
              expect(to).not.toBe(from);
              expect(reason).not.toBe("");
            }
    }
  });
});
