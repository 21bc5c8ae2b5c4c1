import { describe, expect, it } from "vitest";
import { shapeBounds } from "../geometry/shape";
import type { LabeledObject } from "../model/item";
import { outputsOn, plannedImage } from "../tests/planned-image";
import { copyNumbers } from "./outputs";
import { planSchema } from "./plan";

const box = (x: number, width = 20): LabeledObject["shape"] => ({ kind: "box", x, y: 10, width, height: 30 });
const image = plannedImage({
  objects: [
    { class: "roll", shape: box(0) },
    { class: "tart", shape: box(100), occluded: true },
  ],
  classes: ["tray", "roll"],
});
const flip = { op: "flip-sideways" };
const boxOf = (object: LabeledObject | undefined) => object && shapeBounds(object.shape);

describe("outputsOf", () => {
  it("is the image itself where a plan changes nothing", async () => {
    const [only, ...more] = await outputsOn(image, {});
    expect(more).toEqual([]);
    expect(only).toMatchObject({ copy: 0, tile: null, size: image.size, state: "labeled", objects: image.objects });
    expect(only?.classes).toEqual(["tray", "roll"]);
  });
  it("copies training images only, never changes the image itself, and mirrors boxes by hand", async () => {
    const outputs = await outputsOn(image, { augment: { copies: 2, do: [flip] } });
    expect(outputs.map(({ copy, recipe }) => [copy, recipe.warp[0]])).toEqual([
      [0, 1],
      [1, -1],
      [2, -1],
    ]);
    // From 0…20 of 200 pixels to 180…200.
    expect(outputs[1]?.objects.map(({ shape }) => shape.kind === "box" && [shape.x, shape.width])).toEqual([
      [180, 20],
      [80, 20],
    ]);
    expect(outputs[1]?.objects[1]?.occluded).toBe(true);
    for (const split of ["val", "test"] as const)
      expect(await outputsOn(image, { augment: { copies: 2, do: [flip] } }, split)).toHaveLength(1);
  });
  it("makes the same of an image in val whatever is augmented", async () => {
    const prepare = { resize: { mode: "pad", width: 64, height: 64 } };
    const [plain] = await outputsOn(image, { prepare }, "val");
    const augment = { copies: 3, rare: { share: 1 }, do: [flip, { op: "noise" }, { op: "mosaic" }] };
    expect(await outputsOn(image, { prepare, augment }, "val")).toEqual([plain]);
  });
  it("stretches boxes with the image, by hand", async () => {
    const resize = { mode: "stretch", width: 100, height: 300, larger: true };
    const [only] = await outputsOn(image, { prepare: { resize } }, "val");
    expect(only?.size).toEqual({ width: 100, height: 300 });
    expect(only?.objects[1]?.shape).toEqual({ kind: "box", x: 50, y: 30, width: 10, height: 90 });
  });
  it("draws the same copies again, others with another seed, another image and another place in the list", async () => {
    const angles = async (seed: number, key: string, before: object[] = []) => {
      const plan = { seed, augment: { copies: 20, do: [...before, { op: "rotate", degrees: [-90, 90] }] } };
      return (await outputsOn({ ...image, key }, plan)).map(({ recipe }) => recipe.warp[3]);
    };
    const [a, b] = ["a".repeat(64), "b".repeat(64)];
    expect(await angles(1, a)).toEqual(await angles(1, a));
    expect(await angles(1, a)).not.toEqual(await angles(2, a));
    expect(await angles(1, a)).not.toEqual(await angles(1, b));
    expect(await angles(1, a, [{ op: "grey" }])).not.toEqual(await angles(1, a));
    expect(new Set(await angles(1, a)).size).toBe(21);
  });
  it("calls an image empty whose labels are gone, unlabeled what nobody labeled", async () => {
    const bare = plannedImage({ objects: [], classes: [] });
    expect((await outputsOn(bare, {}, "val"))[0]?.state).toBe("empty");
    expect((await outputsOn({ ...bare, captions: ["a tray"] }, {}, "val"))[0]?.state).toBe("labeled");
    expect((await outputsOn({ ...bare, state: "unlabeled" }, {}, "val"))[0]?.state).toBe("unlabeled");
  });
  it("drops an object of which too little is visible, by hand", async () => {
    const cut = (visible: string) => outputsOn(image, { visible, prepare: { crop: { left: "7%" } } }, "val");
    // 14 of the first box's 20 pixels are cut off: 30% of it is left.
    expect((await cut("30%"))[0]?.objects.map((object) => boxOf(object))).toEqual([
      { x: 0, y: 10, width: 6, height: 30 },
      { x: 86, y: 10, width: 20, height: 30 },
    ]);
    const [strict] = await cut("31%");
    expect(strict?.objects).toHaveLength(1);
    expect(strict?.dropped[0]).toMatchObject({ reason: "cut", object: { class: "roll" } });
    expect(strict?.dropped[0]?.left).toBeCloseTo(0.3, 9);
  });
  it("cuts tiles, each with its own labels, and leaves out those that hold nothing", async () => {
    const tiles = { columns: 2, rows: 2 };
    const objects = [{ class: "roll", shape: { kind: "box" as const, x: 90, y: 10, width: 20, height: 30 } }];
    const tiled = await outputsOn({ ...image, classes: [], objects }, { prepare: { tiles } }, "val");
    expect(tiled.map(({ tile, size, state, objects: held }) => [tile, size, state, held.map(boxOf)])).toEqual([
      [{ row: 0, column: 0 }, { width: 100, height: 50 }, "labeled", [{ x: 90, y: 10, width: 10, height: 30 }]],
      [{ row: 0, column: 1 }, { width: 100, height: 50 }, "labeled", [{ x: 0, y: 10, width: 10, height: 30 }]],
      [{ row: 1, column: 0 }, { width: 100, height: 50 }, "empty", []],
      [{ row: 1, column: 1 }, { width: 100, height: 50 }, "empty", []],
    ]);
    const some = { prepare: { tiles: { ...tiles, empty: "leave-out" } } };
    expect(await outputsOn({ ...image, classes: [], objects }, some, "val")).toHaveLength(2);
  });
  it("drops what a rectangle covers, and keeps what it does not", async () => {
    const augment = { copies: 30, do: [{ op: "erase", count: 3, share: "30%" }] };
    const outputs = (await outputsOn(image, { visible: "90%", augment })).slice(1);
    const lost = outputs.flatMap(({ dropped }) => dropped);
    expect(lost.length).toBeGreaterThan(5);
    expect(lost.every(({ reason, left }) => reason === "covered" && left < 0.9)).toBe(true);
    for (const { objects, dropped } of outputs) expect(objects.length + dropped.length).toBe(2);
  });
  it("swaps left and right keypoints in a mirror, and in no turn", async () => {
    const points = [
      { x: 10, y: 20, v: 2 as const },
      { x: 30, y: 20, v: 2 as const },
    ];
    const person = plannedImage({ objects: [{ class: "person", shape: { kind: "keypoints", points } }] });
    const classes = [{ name: "person", keypoints: ["left_eye", "right_eye"] }];
    const xs = async (op: object) => {
      const [, copy] = await outputsOn(person, { augment: { copies: 1, do: [op] } }, "train", { classes });
      const shape = copy?.objects[0]?.shape;
      return shape?.kind === "keypoints" ? shape.points.map(({ x, y }) => [Math.round(x), Math.round(y)]) : null;
    };
    expect(await xs(flip)).toEqual([
      [170, 20],
      [190, 20],
    ]);
    expect(await xs({ op: "flip-over" })).toEqual([
      [30, 80],
      [10, 80],
    ]);
    expect(await xs({ op: "quarter-turn", turns: 2 })).toEqual([
      [190, 80],
      [170, 80],
    ]);
  });
});

describe("several sources", () => {
  const keys = ["1", "2", "3", "4"].map((digit) => digit.repeat(64));
  const square = (x: number, y: number): LabeledObject => ({
    class: "roll",
    shape: { kind: "polygon", parts: [[[x, y, x + 20, y, x + 20, y + 20, x, y + 20]]] },
  });
  const others = keys.map((key, at) => plannedImage({ key, objects: [square(20 * at + 10, 40)] }));
  it("a mosaic has four parts around its centre and the labels that are seen of all four", async () => {
    const plan = { augment: { copies: 8, do: [{ op: "mosaic", centre: 0.5 }] } };
    const outputs = (await outputsOn(others[0] as never, plan, "train", { others })).slice(1);
    for (const { recipe, objects } of outputs) {
      expect(recipe.parts.map(({ window }) => window)).toEqual([
        { x: 0, y: 0, width: 100, height: 50 },
        { x: 100, y: 0, width: 100, height: 50 },
        { x: 0, y: 50, width: 100, height: 50 },
        { x: 100, y: 50, width: 100, height: 50 },
      ]);
      expect(recipe.parts[0]?.source).toBe(keys[0]);
      // Half as large, so that each quarter holds a whole picture with its one object.
      expect(objects).toHaveLength(4);
      expect(objects.every(({ shape }) => Math.abs((shapeBounds(shape)?.width ?? 0) - 10) < 1e-6)).toBe(true);
    }
    expect(new Set(outputs.flatMap(({ recipe }) => recipe.parts.map(({ source }) => source))).size).toBe(4);
  });
  it("pasted objects lie inside, come from others, and cover no other by more than 30%", async () => {
    const plan = { augment: { copies: 20, do: [{ op: "paste", count: 3 }] } };
    const outputs = (await outputsOn(others[0] as never, plan, "train", { others })).slice(1);
    let pasted = 0;
    for (const { recipe, objects } of outputs) {
      const added = recipe.effects.flatMap((effect) => effect.pasted ?? []);
      pasted += added.length;
      expect(objects).toHaveLength(1 + added.length);
      expect(added.every(({ source }) => source !== keys[0])).toBe(true);
      const boxes = objects.flatMap(({ shape }) => shapeBounds(shape) ?? []);
      for (const { x, y, width, height } of boxes)
        expect(x >= 0 && y >= 0 && x + width <= 200 && y + height <= 100).toBe(true);
      for (const a of boxes)
        for (const b of boxes) {
          if (a === b) continue;
          const shared =
            Math.max(0, Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x)) *
            Math.max(0, Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y));
          expect(shared / (a.width * a.height)).toBeLessThanOrEqual(0.3 + 1e-9);
        }
    }
    expect(pasted).toBeGreaterThan(30);
  });
});

describe("copyNumbers", () => {
  const numbers = (augment: object, repeats: number) => copyNumbers(planSchema.parse({ augment }).augment, repeats);
  it("goes out as often as the plan document says", () => {
    expect(numbers({ copies: 2 }, 1)).toEqual([0, 1, 2]);
    // r·(copies + 1) times, once as the original.
    expect(numbers({ copies: 2 }, 3)).toHaveLength(9);
    expect(numbers({ copies: 2, original: false }, 3)).toEqual([1, 2, 3, 4, 5, 6]);
    expect(numbers({ copies: 0, original: false }, 1)).toEqual([]);
  });
});
