import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { shapeBounds } from "../../geometry/shape";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { settle } from "../settle";
import { sniff } from "../sniff";
import { yolo } from "./index";
import { labelPathsFor } from "./read";

describe("reading yolo", () => {
  it("finds labels by the last folder called images, or beside the picture", () => {
    expect(labelPathsFor("images/x/images/train/a.jpg")[0]).toBe("images/x/labels/train/a.txt");
    expect(labelPathsFor("x/a.b.jpg")).toEqual(["x/a.b.txt"]);
  });
  it("turns shares into pixels once the size is known, by hand", async () => {
    const tree = new MemoryTree({
      "images/a.jpg": picture,
      "labels/a.txt": "1 0.5 0.5 0.25 5e-1\r\n\n  0 0.1 0.1 0.2 0.1 0.2 0.3  \n1 0.5 0.5 0.1 0.1 0.93\n",
      "classes.txt": "roll\ntart\n",
    });
    const { items, report, classes } = await readAll(yolo, tree);
    expect(classes).toEqual(["roll", "tart"]);
    const item = settle(items.get("images/a.jpg") as never, { width: 200, height: 100, orientation: 1 }, report);
    expect(item.objects[0]).toEqual({ class: "tart", shape: { kind: "box", x: 75, y: 25, width: 50, height: 50 } });
    expect(item.objects[1]?.shape).toMatchObject({ kind: "polygon" });
    expect(shapeBounds(item.objects[1]?.shape as never)).toEqual({ x: 20, y: 10, width: 20, height: 20 });
    expect(item.objects[2]?.confidence).toBe(0.93);
  });
  it("tells an empty file from no file, and names what is missing or unknown", async () => {
    const tree = new MemoryTree({
      "images/a.jpg": picture,
      "images/b.jpg": picture,
      "labels/a.txt": "",
      "labels/c.txt": "0 .5 .5 .1 .1\n",
      "data.yaml": "names: {0: roll, 2: tart}\nnc: 3\nval: ./images\n",
      "images/d.jpg": picture,
      "labels/d.txt": "7 .5 .5 .1 .1\nnot a label\n",
    });
    const { items, codes, classes } = await readAll(yolo, tree);
    expect(classes).toEqual(["roll", "class_1", "tart"]);
    expect(["images/a.jpg", "images/b.jpg"].map((path) => items.get(path)?.state)).toEqual(["empty", "unlabeled"]);
    expect(items.get("images/a.jpg")?.split).toBe("val");
    expect(codes).toEqual({ "class-unknown": 1, "image-missing": 1, "shape-degenerate": 1 });
  });
  it("takes a label file that is no text for one that cannot be read, whatever stands in it", async () => {
    const noise = Uint8Array.from({ length: 3000 }, (_, n) => (n * n * 31 + n * 7) % 256);
    const tree = new MemoryTree(
      {
        "images/a.jpg": picture,
        "images/b.jpg": picture,
        "images/c.jpg": picture,
        "labels/a.txt": noise,
        "labels/b.txt": "0 .5 .5 .1 .1\n",
        "labels/c.txt": Buffer.from("\uFEFF0 .5 .5 .1 .1\r\n", "utf16le"),
        "classes.txt": "roll\n",
      },
      4096,
    );
    const { items, codes } = await readAll(yolo, tree);
    expect(codes).toEqual({ "annotation-unreadable": 1 });
    expect([...items.values()].map(({ state, objects }) => [state, objects.length])).toEqual([
      ["unlabeled", 0],
      ["labeled", 1],
      ["labeled", 1],
    ]);
    expect((await sniff(tree))[0]?.format.name).toBe("yolo");
  });
  it("lists of a map with a class of two thousand millions the classes that have a name", async () => {
    const tree = new MemoryTree({
      "a.jpg": picture,
      "a.txt": "1999999999 .5 .5 .1 .1\n0 .5 .5 .1 .1\n7 .5 .5 .1 .1\n",
      "data.yaml": "names: {0: roll, 1999999999: tart, 99999999999999999999: none}\n",
    });
    const { items, classes, codes } = await readAll(yolo, tree);
    expect(classes).toEqual(["roll", "tart"]);
    expect(items.get("a.jpg")?.objects.map((object) => object.class)).toEqual(["tart", "roll"]);
    expect(codes).toEqual({ "class-unknown": 1 });
  });
  it("makes names up where no list came along, and says so", async () => {
    const { classes, codes } = await readAll(yolo, new MemoryTree({ "a.jpg": picture, "a.txt": "2 .5 .5 .1 .1\n" }));
    expect(classes).toEqual(["class_0", "class_1", "class_2"]);
    expect(codes["classes-missing"]).toBe(1);
  });
  it("reads splits from listings that data.yaml names", async () => {
    const tree = new MemoryTree({
      "images/a.jpg": picture,
      "images/b.jpg": picture,
      "labels/a.txt": "",
      "labels/b.txt": "",
      "train.txt": "./images/a.jpg\n",
      "test.txt": "/somewhere/else/images/b.jpg\n",
      "data.yaml": "names: [roll]\ntrain: train.txt\ntest: test.txt\n",
    });
    const { items, codes } = await readAll(yolo, tree);
    expect([items.get("images/a.jpg")?.split, items.get("images/b.jpg")?.split]).toEqual(["train", "test"]);
    expect(codes).toEqual({});
  });
  it("knows a listing by its lines where no data.yaml speaks of it, and a label file of such a name by its picture", async () => {
    const tree = new MemoryTree({
      "data/a.jpg": picture,
      "data/b.jpg": picture,
      "data/a.txt": "0 .5 .5 .1 .1\n",
      "data/b.txt": "",
      "data/train.txt": "data/a.jpg\n",
      "data/valid.txt": "data/b.jpg\r\n",
      "train.jpg": picture,
      "train.txt": "0 .5 .5 .2 .2\n",
      "obj.names": "roll\n",
    });
    const { items, codes } = await readAll(yolo, tree);
    expect(
      ["data/a.jpg", "data/b.jpg", "train.jpg"].map((path) => [
        items.get(path)?.split,
        items.get(path)?.objects.length,
      ]),
    ).toEqual([
      ["train", 1],
      ["val", 0],
      [null, 1],
    ]);
    expect(codes).toEqual({});
  });
});

describe("writing yolo", () => {
  const classes = [{ name: "roll" }, { name: 'a class: with "quotes"' }];
  it("writes a data.yaml that works from anywhere, without a key for a split that has no image", async () => {
    const { tree } = await roundTrip(yolo, classes, [
      outgoing("a.jpg", "train", [{ class: "roll", shape: { kind: "box", x: 96, y: 72, width: 96, height: 144 } }]),
      outgoing("b.jpg", "val", []),
    ]);
    const description: unknown = parse(tree.text("data.yaml"));
    expect(description).toEqual({
      train: "images/train",
      val: "images/val",
      nc: 2,
      names: ["roll", 'a class: with "quotes"'],
    });
    // cx = 144 / 960, cy = 144 / 720.
    expect(tree.text("labels/train/a.txt")).toBe("0 0.1500000000 0.2000000000 0.1000000000 0.2000000000\n");
    expect(tree.text("labels/val/b.txt")).toBe("");
    expect(tree.text("README.txt")).toContain("data.yaml");
  });
  it("gives pictures whose stems collide names of their own", async () => {
    const { tree } = await roundTrip(yolo, classes, [
      outgoing("x/a.jpg", "train", []),
      outgoing("y/a.jpg", "train", []),
      outgoing("a.png", "train", []),
    ]);
    expect([...tree.files.keys()].filter((path) => path.startsWith("labels/")).sort()).toEqual([
      "labels/train/a.txt",
      "labels/train/a_2.txt",
      "labels/train/a_3.txt",
    ]);
  });
  it("comes back within a millionth of the size", async () => {
    const box = fc.record({
      x: fc.double({ min: 0, max: 800, noNaN: true }),
      y: fc.double({ min: 0, max: 600, noNaN: true }),
      width: fc.double({ min: 0.5, max: 160, noNaN: true }),
      height: fc.double({ min: 0.5, max: 120, noNaN: true }),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.tuple(fc.constantFrom("train" as const, "val" as const, "test" as const), fc.array(box, { maxLength: 6 })),
          { minLength: 1, maxLength: 5 },
        ),
        async (rows) => {
          const items = rows.map(([split, boxes], i) =>
            outgoing(
              `${i}.jpg`,
              split,
              boxes.map((shape) => ({ class: "roll", shape: { kind: "box", ...shape } })),
            ),
          );
          const { back } = await roundTrip(yolo, classes, items);
          for (const item of items) {
            const same = back.find(({ path }) => path.endsWith(`/${item.path}`));
            expect([same?.split, same?.state, same?.objects.length]).toEqual([
              item.split,
              item.state,
              item.objects.length,
            ]);
            item.objects.forEach((object, nth) => {
              const a = shapeBounds(object.shape);
              const b = shapeBounds(same?.objects[nth]?.shape as never);
              for (const key of ["x", "y", "width", "height"] as const)
                expect(Math.abs((a?.[key] ?? 0) - (b?.[key] ?? NaN))).toBeLessThan(1e-6 * 960);
            });
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
