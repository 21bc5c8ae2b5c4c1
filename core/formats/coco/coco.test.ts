import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Findings } from "../../model/finding";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { runsFromBitmap } from "../../geometry/run-length";
import { coco } from "./index";

const base = {
  images: [
    { id: 70, width: 100, height: 80, file_name: "a.jpg" },
    { id: "x9", width: 100, height: 80, file_name: "deep\\b%20c.jpg" },
    { id: 3, width: 100, height: 80, file_name: "gone.jpg" },
    { id: 4, width: 100, height: 80, file_name: "empty.jpg" },
  ],
  categories: [
    { id: 9, name: "roll", supercategory: "" },
    { id: 2, name: "tart", supercategory: "" },
    { id: 5, name: "never", supercategory: "" },
  ],
  annotations: [
    { id: 1, image_id: 70, category_id: 2, bbox: [1.5, 2, 30, 40] },
    {
      id: 2,
      image_id: "x9",
      category_id: 9,
      segmentation: [
        [0, 0, 10, 0, 10, 10, 0, 10],
        [20, 20, 30, 20, 30, 30],
      ],
    },
    { id: 3, image_id: 70, category_id: 77, bbox: [1, 2, 3, 4] },
    { id: 4, image_id: 555, category_id: 2, bbox: [1, 2, 3, 4] },
    { id: 5, image_id: 70, category_id: 9, bbox: [5, 5, -3, 4] },
    { id: 6, image_id: 70, category_id: 9, bbox: [null, 5, 3, 4] },
    { id: 7, image_id: 70, category_id: 9, bbox: [10, 10, 5, 5], segmentation: [], iscrowd: 1 },
    { id: 8, image_id: "x9", category_id: 2, segmentation: { size: [80, 100], counts: [10, 4, 7986] } },
    { id: 9, image_id: 70, caption: "a tart and a roll" },
  ],
};
const files = (json: string, more: Record<string, string> = {}) =>
  new MemoryTree({
    "images/a.jpg": picture,
    "images/deep/b c.jpg": picture,
    "images/empty.jpg": picture,
    "images/unlisted.jpg": picture,
    "annotations/instances_val2017.json": json,
    ...more,
  });

describe("reading coco", () => {
  it("joins by id whatever its kind, matches names that are escaped, and keeps the categories' own order", async () => {
    const { classes, items, codes } = await readAll(coco, files(JSON.stringify(base)));
    expect(classes).toEqual(["roll", "tart", "never"]);
    const a = items.get("images/a.jpg");
    expect(a?.objects).toEqual([
      { class: "tart", shape: { kind: "box", x: 1.5, y: 2, width: 30, height: 40 } },
      { class: "roll", shape: { kind: "box", x: 10, y: 10, width: 5, height: 5 }, crowd: true },
    ]);
    expect(a?.captions).toEqual(["a tart and a roll"]);
    expect(a?.split).toBe("val");
    expect(items.get("images/deep/b c.jpg")?.objects.map(({ class: name, shape }) => [name, shape.kind])).toEqual([
      ["roll", "polygon"],
      ["tart", "mask"],
    ]);
    expect(codes).toMatchObject({ "class-unknown": 1, "shape-degenerate": 2 });
    // gone.jpg is named and missing, and annotation 4 names an image that no list has.
    expect(codes["image-missing"]).toBe(2);
  });
  it("tells empty from unlabeled, as asked", async () => {
    const { items } = await readAll(coco, files(JSON.stringify(base)));
    expect(items.get("images/empty.jpg")?.state).toBe("empty");
    expect(items.get("images/unlisted.jpg")?.state).toBe("unlabeled");
    const other = await readAll(coco, files(JSON.stringify(base)), { unannotated: "unlabeled" });
    expect(other.items.get("images/empty.jpg")?.state).toBe("unlabeled");
  });
  it("reads on through bare NaN and Infinity, but leaves the word in a name alone", async () => {
    const text = JSON.stringify(base)
      .replace("[1.5,2,30,40]", "[NaN,2,-Infinity,40]")
      .replace('"never"', '"NaN bread, \\"Infinity\\""');
    const { items, classes, codes } = await readAll(coco, files(text));
    expect(items.get("images/a.jpg")?.objects).toHaveLength(1);
    expect(codes["shape-degenerate"]).toBe(3);
    expect(classes[2]).toBe('NaN bread, "Infinity"');
  });
  it("brings the images in unlabeled where the file is cut off or is something else", async () => {
    for (const broken of [
      JSON.stringify(base).slice(0, -20),
      '{"images": [1, 2}',
      "[]",
      "hello",
      '{"some": "thing"}',
      "",
    ]) {
      const { items, codes } = await readAll(coco, files(broken));
      expect(codes["annotation-unreadable"], broken.slice(0, 20)).toBe(1);
      expect([...items.values()].every((item) => item.state === "unlabeled")).toBe(true);
      expect(items.size).toBe(4);
    }
  });
  it("does not guess where a base name stands for several pictures", async () => {
    const tree = new MemoryTree({
      "x/a.jpg": picture,
      "y/a.jpg": picture,
      "list.json": JSON.stringify({ images: [{ id: 1, file_name: "a.jpg" }], annotations: [], categories: [] }),
    });
    const { codes, items } = await readAll(coco, tree);
    expect(codes["image-missing"]).toBe(1);
    expect(items.get("x/a.jpg")?.state).toBe("unlabeled");
  });
  it("takes the picture of its own split where both splits have the name", async () => {
    const json = (cx: number) =>
      JSON.stringify({
        images: [{ id: 1, file_name: "1.jpg" }],
        categories: [{ id: 1, name: "roll" }],
        annotations: [{ id: 1, image_id: 1, category_id: 1, bbox: [cx, 0, 5, 5] }],
      });
    const tree = new MemoryTree({
      "images/train/1.jpg": picture,
      "images/val/1.jpg": picture,
      "annotations/instances_train.json": json(1),
      "annotations/instances_val.json": json(2),
    });
    const { items } = await readAll(coco, tree);
    expect(items.get("images/train/1.jpg")?.objects[0]?.shape).toMatchObject({ x: 1 });
    expect(items.get("images/val/1.jpg")?.objects[0]?.shape).toMatchObject({ x: 2 });
    expect(items.get("images/val/1.jpg")?.split).toBe("val");
  });
});

describe("what came with a coco file and no other format knows", () => {
  const json = {
    licenses: [
      { id: 4, name: "CC BY 4.0", url: "https://creativecommons.org/licenses/by/4.0/" },
      { id: 9, name: "" },
    ],
    images: [
      { id: 1, file_name: "shift/one/a.jpg", width: 100, height: 80, license: 4 },
      { id: 2, file_name: "shift/two/a.jpg", width: 100, height: 80, license: 9 },
    ],
    categories: [
      { id: 17, name: "roll", supercategory: "bread" },
      { id: 90, name: "tart" },
    ],
    annotations: [
      { id: 1, image_id: 1, category_id: 17, bbox: [10, 10, 20, 20], area: 250.5, iscrowd: 0 },
      { id: 2, image_id: 2, category_id: 90, bbox: [10, 10, 20, 20], area: 400.2, iscrowd: 0 },
    ],
  };
  const source = new MemoryTree(
    { "images/shift/one/a.jpg": picture, "images/shift/two/a.jpg": picture, "all.json": JSON.stringify(json) },
    1 << 16,
  );
  type Written = {
    licenses: unknown[];
    images: { file_name: string; license?: number }[];
    annotations: { category_id: unknown; area: number }[];
    categories: unknown[];
  };
  async function through(options: Record<string, string>): Promise<Written> {
    const reading = await coco.read(source, {}, new Findings());
    const items = [];
    for await (const item of reading.items)
      items.push(
        outgoing(item.path.replace("images/", ""), item.split, item.objects, { width: 100, height: 80 }, item),
      );
    const { tree } = await roundTrip(
      coco,
      reading.classes,
      items.map((item) => ({ ...item, path: item.path.replace("images/", "") })),
      options,
    );
    return JSON.parse(tree.text("annotations/instances.json")) as Written;
  }
  it("goes out again: licences, supercategories, and an area that is not the shape's", async () => {
    const written = await through({});
    expect(written.licenses).toEqual([
      { id: 1, name: "CC BY 4.0", url: "https://creativecommons.org/licenses/by/4.0/" },
    ]);
    expect(written.images).toMatchObject([{ file_name: "a.jpg", license: 1 }, { file_name: "a_2.jpg" }]);
    expect(written.images[1]).not.toHaveProperty("license");
    expect(written.categories).toEqual([
      { id: 1, name: "roll", supercategory: "bread" },
      { id: 2, name: "tart", supercategory: "" },
    ]);
    expect(written.annotations.map(({ area }) => area)).toEqual([250.5, 400]);
  });
  it("keeps sub-folders and the categories' own ids when asked", async () => {
    const written = await through({ names: "path", ids: "source" });
    expect(written.images.map((image) => image.file_name)).toEqual(["shift/one/a.jpg", "shift/two/a.jpg"]);
    expect(written.categories).toMatchObject([{ id: 17 }, { id: 90 }]);
    expect(written.annotations.map((annotation) => annotation.category_id)).toEqual([17, 90]);
  });
});

describe("writing coco", () => {
  const classes = [{ name: "roll" }, { name: "pretzel", keypoints: ["left", "right"] }, { name: "unused" }];
  it("writes ids from 1, the shape's own area, and one file a split", async () => {
    const ring = [10, 10, 50, 10, 10, 40];
    const { tree } = await roundTrip(coco, classes, [
      outgoing("x/a.jpg", "train", [{ class: "roll", shape: { kind: "polygon", parts: [[ring]] } }]),
      outgoing("b.jpg", "val", []),
    ]);
    const json = JSON.parse(tree.text("annotations/instances_train.json")) as {
      images: unknown[];
      annotations: { area: number; bbox: number[] }[];
      categories: { id: number; name: string }[];
    };
    expect(json.images).toEqual([{ id: 1, width: 960, height: 720, file_name: "a.jpg" }]);
    // Half of 40 × 30.
    expect(json.annotations[0]).toMatchObject({
      id: 1,
      image_id: 1,
      category_id: 1,
      area: 600,
      bbox: [10, 10, 40, 30],
      segmentation: [ring],
      iscrowd: 0,
    });
    expect(json.categories.map(({ id, name }) => [id, name])).toEqual([
      [1, "roll"],
      [2, "pretzel"],
      [3, "unused"],
    ]);
    expect([...tree.files.keys()].sort()).toEqual([
      "README.txt",
      "annotations/instances_train.json",
      "annotations/instances_val.json",
      "images/train/a.jpg",
      "images/val/b.jpg",
      "larder-sources.csv",
    ]);
  });
  it("says holes as run-length, and reads them back as the same pixels", async () => {
    const size = { width: 40, height: 30 };
    const { tree, back } = await roundTrip(coco, classes, [
      outgoing(
        "a.jpg",
        "train",
        [
          {
            class: "roll",
            shape: {
              kind: "polygon",
              parts: [
                [
                  [0, 0, 20, 0, 20, 20, 0, 20],
                  [5, 5, 10, 5, 10, 10, 5, 10],
                ],
              ],
            },
          },
        ],
        size,
      ),
    ]);
    expect(tree.text("annotations/instances_train.json")).toContain('"counts":"');
    const bits = new Uint8Array(1200);
    for (let y = 0; y < 20; y++)
      for (let x = 0; x < 20; x++) bits[y * 40 + x] = x >= 5 && x < 10 && y >= 5 && y < 10 ? 0 : 1;
    expect(back[0]?.objects[0]?.shape).toEqual({
      kind: "mask",
      width: 40,
      height: 30,
      counts: runsFromBitmap(bits, 40, 30),
    });
  });
  it("lets an unlabeled image go along without listing it", async () => {
    const { back } = await roundTrip(coco, classes, [
      outgoing("a.jpg", null, [], { width: 10, height: 10 }, { state: "unlabeled" }),
      outgoing("b.jpg", null, []),
    ]);
    expect(back.map(({ path, state, split }) => [path, state, split]).sort()).toEqual([
      ["images/a.jpg", "unlabeled", null],
      ["images/b.jpg", "empty", null],
    ]);
  });

  const coordinate = fc.double({ min: 0, max: 400, noNaN: true });
  const extent = fc.double({ min: 0.5, max: 300, noNaN: true });
  const object = fc.oneof(
    fc
      .record({ x: coordinate, y: coordinate, width: extent, height: extent })
      .map((box) => ({ class: "roll", shape: { kind: "box" as const, ...box } })),
    fc.tuple(coordinate, coordinate, extent).map(([x, y, d]) => ({
      class: "roll",
      attributes: { bake: "pale" },
      shape: { kind: "polygon" as const, parts: [[[x, y, x + d, y, x, y + d]]] },
    })),
    fc.tuple(coordinate, coordinate).map(([x, y]) => ({
      class: "pretzel",
      occluded: true,
      shape: {
        kind: "keypoints" as const,
        points: [
          { x, y, v: 2 as const },
          { x: 0, y: 0, v: 0 as const },
        ],
        box: { x, y, width: 20, height: 30 },
      },
    })),
  );
  it("comes back equal, bit for bit", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.tuple(
            fc.constantFrom("train" as const, "val" as const, "test" as const, null),
            fc.array(object, { maxLength: 5 }),
          ),
          { minLength: 1, maxLength: 6 },
        ),
        async (rows) => {
          const items = rows.map(([split, objects], i) => outgoing(`f/${i}.jpg`, split, objects));
          const { back, codes } = await roundTrip(coco, classes, items);
          expect(codes).toEqual({});
          for (const item of items) {
            const same = back.find(({ path }) => path.endsWith(item.path.slice(1)));
            expect(same?.objects).toEqual(item.objects);
            expect([same?.split, same?.state]).toEqual([item.split, item.state]);
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
