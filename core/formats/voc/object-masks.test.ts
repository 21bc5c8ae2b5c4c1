import { describe, expect, it } from "vitest";
import { runsArea } from "../../geometry/run-length";
import { MemoryTree } from "../../tests/memory-tree";
import { picture, readAll } from "../../tests/reading";
import { encodeMask } from "../masks/png";
import { voc } from "./index";

const [width, height] = [20, 10];
const object = (name: string, [xmin, ymin, xmax, ymax]: [number, number, number, number]) =>
  `<object><name>${name}</name><bndbox><xmin>${xmin}</xmin><ymin>${ymin}</ymin><xmax>${xmax}</xmax><ymax>${ymax}</ymax></bndbox></object>`;
const sheet = (...objects: string[]) =>
  `<annotation><size><width>${width}</width><height>${height}</height></size>${objects.join("")}</annotation>`;

/** A map in which each value fills a rectangle: x, y, width, height. */
function map(rectangles: Record<number, [number, number, number, number]>): Uint16Array {
  const values = new Uint16Array(width * height);
  for (const [value, [x0, y0, w, h]] of Object.entries(rectangles))
    for (let y = y0; y < y0 + h; y++) values.fill(Number(value), y * width + x0, y * width + x0 + w);
  return values;
}
const png = (rectangles: Parameters<typeof map>[0]) => encodeMask(map(rectangles), width, height, []);
const kinds = (objects: readonly { class: string; shape: { kind: string } }[] | undefined) =>
  objects?.map((object) => [object.class, object.shape.kind]);

describe("masks of objects beside voc sheets", () => {
  it("give the nth object its outline, and are no pictures themselves", async () => {
    const files = {
      "JPEGImages/a.jpg": picture,
      "Annotations/a.xml": sheet(object("roll", [1, 1, 6, 5]), object("tart", [11, 3, 18, 9])),
      "SegmentationObject/a.png": png({ 1: [1, 1, 4, 3], 2: [10, 2, 8, 6], 255: [0, 9, 20, 1] }),
      "SegmentationClass/a.png": png({ 7: [1, 1, 4, 3] }),
    };
    const { items, codes } = await readAll(voc, new MemoryTree(files), { origin: "one" });
    expect([...items.keys()]).toEqual(["JPEGImages/a.jpg"]);
    const objects = items.get("JPEGImages/a.jpg")?.objects;
    expect(kinds(objects)).toEqual([
      ["roll", "mask"],
      ["tart", "mask"],
    ]);
    // By hand, column by column: one column of 10 and one pixel before the first run of three, then 7 between them.
    expect(objects?.[0]?.shape).toEqual({ kind: "mask", width, height, counts: [11, 3, 7, 3, 7, 3, 7, 3, 156] });
    expect(objects?.map(({ shape }) => (shape.kind === "mask" ? runsArea(shape.counts) : 0))).toEqual([12, 48]);
    expect(codes).toEqual({});
  });
  it("leave an object its box where they do not hold it, lie elsewhere, or are of another size, and say so", async () => {
    const sheets = {
      "JPEGImages/a.jpg": picture,
      "Annotations/a.xml": sheet(
        object("roll", [1, 1, 6, 5]),
        object("tart", [11, 3, 18, 9]),
        object("bun", [1, 6, 4, 9]),
      ),
    };
    const elsewhere = await readAll(
      voc,
      new MemoryTree({ ...sheets, "SegmentationObject/a.png": png({ 1: [10, 2, 8, 6], 3: [0, 5, 4, 4] }) }),
      { origin: "one" },
    );
    expect(kinds(elsewhere.items.get("JPEGImages/a.jpg")?.objects)).toEqual([
      ["roll", "box"],
      ["tart", "box"],
      ["bun", "mask"],
    ]);
    expect(elsewhere.codes).toEqual({ "mask-unused": 1 });
    const small = await readAll(
      voc,
      new MemoryTree({ ...sheets, "SegmentationObject/a.png": encodeMask(new Uint16Array(50).fill(1), 10, 5, []) }),
      { origin: "one" },
    );
    expect(kinds(small.items.get("JPEGImages/a.jpg")?.objects)).toEqual([
      ["roll", "box"],
      ["tart", "box"],
      ["bun", "box"],
    ]);
    expect(small.codes).toEqual({ "mask-unused": 1 });
    const ofClasses = await readAll(
      voc,
      new MemoryTree({ ...sheets, "SegmentationClass/a.png": png({ 5: [1, 1, 4, 3] }) }),
      { origin: "one" },
    );
    expect(ofClasses.codes).toEqual({ "mask-unused": 1 });
  });
  it("count an object that is no whole one, and go on past a file that is no mask", async () => {
    const broken = "<object><name>bun</name></object>";
    const files = {
      "a.jpg": picture,
      "a.xml": sheet(broken, object("tart", [11, 3, 18, 9])),
      "SegmentationObject/a.png": png({ 2: [10, 2, 8, 6] }),
    };
    const { items } = await readAll(voc, new MemoryTree(files), { origin: "one" });
    expect(kinds(items.get("a.jpg")?.objects)).toEqual([["tart", "mask"]]);
    const spoiled = await readAll(voc, new MemoryTree({ ...files, "SegmentationObject/a.png": "no picture" }), {
      origin: "one",
    });
    expect(kinds(spoiled.items.get("a.jpg")?.objects)).toEqual([["tart", "box"]]);
    expect(spoiled.codes).toMatchObject({ "annotation-unreadable": 1 });
  });
});
