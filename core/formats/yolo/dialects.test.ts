import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { rotatedBoxCorners } from "../../geometry/shape";
import { Findings } from "../../model/finding";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { settle } from "../settle";
import { sniff } from "../sniff";
import { yoloObb, yoloPose, yoloSeg } from "./index";
import { guessKeypointShape } from "./lines";

const size = { width: 200, height: 100 };
const facts = { ...size, orientation: 1 };

describe("yolo-pose", () => {
  it("keeps which keypoints swap in a mirror, through the class and out again", async () => {
    const line = "0 .5 .5 .2 .2 .4 .4 2 .6 .4 2 .5 .6 1\n";
    const tree = new MemoryTree({
      "images/train/a.jpg": picture,
      "labels/train/a.txt": line,
      "data.yaml": "names: [person]\nkpt_shape: [3, 3]\nflip_idx: [1, 0, 2]\ntrain: images/train\n",
    });
    const { classes } = await yoloPose.read(tree, {}, new Findings());
    expect(classes).toEqual([{ name: "person", keypoints: ["point_1", "point_2", "point_3"], pairs: [[0, 1]] }]);
    const { items } = await readAll(yoloPose, tree);
    const read = settle(items.get("images/train/a.jpg") as never, facts, new Findings());
    const out = await roundTrip(yoloPose, classes, [outgoing("a.jpg", "train", read.objects, size)]);
    expect(parse(out.tree.text("data.yaml"))).toMatchObject({ flip_idx: [1, 0, 2] });
  });
});

describe("yolo-seg", () => {
  it("joins parts by bridges, fills holes and says so, and writes a box by its corners: never two kinds of line", async () => {
    const parts = [
      [
        [10, 10, 30, 10, 30, 30, 10, 30],
        [15, 15, 20, 15, 20, 20],
      ],
      [[40, 10, 60, 10, 60, 30, 40, 30]],
    ];
    const { back, tree, losses } = await roundTrip(
      yoloSeg,
      [{ name: "roll" }],
      [
        outgoing(
          "a.jpg",
          "train",
          [
            { class: "roll", shape: { kind: "polygon", parts } },
            { class: "roll", shape: { kind: "box", x: 0, y: 0, width: 20, height: 10 } },
          ],
          size,
        ),
      ],
    );
    expect(losses).toEqual({ "loss-mask": 1, "box-as-corners": 1 });
    expect(back[0]?.objects.map(({ shape }) => shape.kind)).toEqual(["polygon", "polygon"]);
    expect(tree.text("labels/train/a.txt").split("\n")[1]?.split(" ").map(Number)).toEqual([
      0, 0, 0, 0.1, 0, 0.1, 0.1, 0, 0.1,
    ]);
  });
  it("keeps what keypoints say of a box", async () => {
    const points = [{ x: 12, y: 14, v: 2 as const }];
    const { back, losses } = await roundTrip(
      yoloSeg,
      [{ name: "pretzel", keypoints: ["middle"] }],
      [
        outgoing(
          "a.jpg",
          "train",
          [{ class: "pretzel", shape: { kind: "keypoints", points, box: { x: 10, y: 10, width: 20, height: 10 } } }],
          size,
        ),
      ],
    );
    expect(losses).toEqual({ "loss-keypoints": 1 });
    const [ring] = (back[0]?.objects[0]?.shape as { parts: number[][][] }).parts[0] ?? [];
    expect(ring?.map(Math.round)).toEqual([10, 10, 30, 10, 30, 20, 10, 20]);
  });
  it("leaves boxes out and says so where that is asked for", async () => {
    const { back, losses } = await roundTrip(
      yoloSeg,
      [{ name: "roll" }],
      [
        outgoing(
          "a.jpg",
          "train",
          [{ class: "roll", shape: { kind: "box", x: 2, y: 4, width: 20, height: 10 } }],
          size,
        ),
      ],
      { corners: "box" },
    );
    expect(losses).toEqual({ "loss-object": 1 });
    expect(back[0]?.objects).toEqual([]);
  });
});

describe("yolo-obb", () => {
  const shape = { kind: "rotated-box" as const, cx: 100, cy: 50, width: 60, height: 20, angle: 0.5 };
  it("gives rotated boxes back though the image is not square, and lays boxes flat", async () => {
    const { back, losses } = await roundTrip(
      yoloObb,
      [{ name: "roll" }],
      [
        outgoing(
          "a.jpg",
          "train",
          [
            { class: "roll", shape },
            { class: "roll", shape: { kind: "box", x: 5, y: 6, width: 10, height: 12 } },
          ],
          size,
        ),
      ],
    );
    expect(losses).toEqual({});
    const [turned, flat] = back[0]?.objects ?? [];
    for (const key of ["cx", "cy", "width", "height", "angle"] as const)
      expect((turned?.shape as typeof shape)[key]).toBeCloseTo(shape[key], 5);
    expect(flat?.shape).toMatchObject({ kind: "rotated-box", angle: 0 });
  });
  it("takes four corners for a rotated box where they are a parallelogram, and says what else they could be", async () => {
    const line = (corners: number[]) => `0 ${corners.map((value, i) => value / (i % 2 === 0 ? 200 : 100)).join(" ")}\n`;
    const of = (text: string) =>
      new MemoryTree({ "images/a.jpg": picture, "labels/a.txt": text, "classes.txt": "roll\n" }, 4096);
    const guesses = await sniff(of(line(rotatedBoxCorners(shape))));
    expect(guesses.slice(0, 2).map(({ format }) => format.name)).toEqual(["yolo-obb", "yolo-seg"]);
    expect(guesses[1]?.score).toBeGreaterThan(0.5);
    expect((await sniff(of(line([10, 10, 50, 12, 60, 60, 12, 40]))))[0]?.format.name).toBe("yolo-seg");
    const { items, report } = await readAll(yoloObb, of(line([10, 10, 50, 12, 60, 60, 12, 40])));
    expect(settle(items.get("images/a.jpg") as never, facts, report).objects[0]?.shape.kind).toBe("rotated-box");
    expect(report.count("format-ambiguous")).toBe(1);
  });
});

describe("yolo-pose", () => {
  const classes = [{ name: "pretzel", keypoints: ["left loop", "right loop", "knot"] }, { name: "roll" }];
  it("writes the shape of keypoints and which swap in a mirror, and reads them back", async () => {
    const points = [
      { x: 20, y: 30, v: 2 as const },
      { x: 60, y: 35, v: 1 as const },
      { x: 0, y: 0, v: 0 as const },
    ];
    const {
      tree,
      back,
      classes: names,
    } = await roundTrip(yoloPose, classes, [
      outgoing(
        "a.jpg",
        "val",
        [
          { class: "pretzel", shape: { kind: "keypoints", points, box: { x: 10, y: 20, width: 60, height: 40 } } },
          { class: "roll", shape: { kind: "box", x: 1, y: 2, width: 30, height: 40 } },
        ],
        size,
      ),
    ]);
    expect(parse(tree.text("data.yaml"))).toMatchObject({ kpt_shape: [3, 3], flip_idx: [1, 0, 2], val: "images/val" });
    expect(names).toEqual(["pretzel", "roll"]);
    const [pose, box] = back[0]?.objects ?? [];
    expect(pose?.shape).toMatchObject({ kind: "keypoints", points: [{ v: 2 }, { v: 1 }, { x: 0, y: 0, v: 0 }] });
    expect(box?.shape.kind).toBe("box");
  });
  it("reads points of two numbers and of three, from kpt_shape or by itself", async () => {
    expect(guessKeypointShape([[0, 0.5, 0.5, 0.1, 0.1, 0.4, 0.4, 2, 0.6, 0.6, 0]])).toEqual({
      points: 2,
      dimensions: 3,
    });
    expect(guessKeypointShape([[0, 0.5, 0.5, 0.1, 0.1, 0.4, 0.4, 0.6, 0.6]])).toEqual({ points: 2, dimensions: 2 });
    const { items, report } = await readAll(
      yoloPose,
      new MemoryTree({
        "images/a.jpg": picture,
        "labels/a.txt": "0 .5 .5 .2 .4 .45 .5 0 0\n",
        "data.yaml": "names: [roll]\nkpt_shape: [2, 2]\n",
      }),
    );
    expect(settle(items.get("images/a.jpg") as never, facts, report).objects[0]?.shape).toMatchObject({
      points: [{ x: 90, y: 50, v: 2 }, { v: 0 }],
    });
  });
});
