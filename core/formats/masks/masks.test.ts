import { encode } from "fast-png";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "../../geometry/run-length";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { masks } from "./index";
import { decodeMask, encodeMask, paletteColour } from "./png";

const size = { width: 6, height: 4 };
const grid = (rows: string[]) => Uint8Array.from([...rows.join("")].map((c) => (c === "." ? 0 : Number(c))));
const grey = (rows: string[]) =>
  encode({ width: rows[0]?.length ?? 0, height: rows.length, data: grid(rows), channels: 1, depth: 8 });
const maskOf = (rows: string[]) => ({
  kind: "mask" as const,
  ...size,
  counts: runsFromBitmap(grid(rows), size.width, size.height),
});
const table = "value,name,r,g,b\n1,roll,200,0,0\n2,tart,0,200,0\n";

describe("reading masks", () => {
  const scene = ["11...2", "1..2.2", "...2..", "1....."];
  it("makes one object a connected region, corners touching", async () => {
    const { items, codes, classes } = await readAll(
      masks,
      new MemoryTree({
        "images/train/a.jpg": picture,
        "masks/train/a.png": grey(scene),
        "images/b.jpg": picture,
        "masks/b.png": grey(["......"]),
        "images/c.jpg": picture,
        "masks/z.png": grey(["1"]),
        "classes.csv": table,
      }),
    );
    expect(classes).toEqual(["roll", "tart"]);
    expect(items.get("images/train/a.jpg")).toMatchObject({ split: "train", state: "labeled", declared: size });
    expect(items.get("images/train/a.jpg")?.objects).toEqual([
      { class: "roll", shape: maskOf(["11....", "1.....", "......", "......"]) },
      { class: "roll", shape: maskOf(["......", "......", "......", "1....."]) },
      { class: "tart", shape: maskOf(["......", "...1..", "...1..", "......"]) },
      { class: "tart", shape: maskOf([".....1", ".....1", "......", "......"]) },
    ]);
    expect([items.get("images/b.jpg")?.state, items.get("images/c.jpg")?.state]).toEqual(["empty", "unlabeled"]);
    expect(codes).toEqual({ "image-missing": 1 });
  });
  it("makes one object a class when asked, leaves 255 aside, and reports values that no class has", async () => {
    const data = grid(scene);
    data[23] = 255;
    data[12] = 7;
    const { items, codes } = await readAll(
      masks,
      new MemoryTree({
        "images/a.jpg": picture,
        "masks/a.png": encode({ ...size, data, channels: 1, depth: 8 }),
        "classes.csv": table,
      }),
      { regions: "class" },
    );
    expect(items.get("images/a.jpg")?.objects.map((object) => object.class)).toEqual(["roll", "tart"]);
    expect(codes).toEqual({ "class-unknown": 1 });
  });
  it("reads 16 bits, four bits a pixel, and colours with their table", async () => {
    const deep = encode({
      ...size,
      data: Uint16Array.from(grid(scene), (value) => value * 300),
      channels: 1,
      depth: 16,
    });
    expect(decodeMask(deep).values[0]).toBe(300);
    const four = await sharp(Buffer.from(grey(scene)))
      .png({ palette: true, colours: 4 })
      .toBuffer();
    expect(new Set(decodeMask(four).values).size).toBe(3);
    const rgb = new Uint8Array(size.width * size.height * 3);
    grid(scene).forEach((value, i) => (value > 0 ? (rgb[i * 3 + value - 1] = 200) : 0));
    const { items, codes } = await readAll(
      masks,
      new MemoryTree({
        "images/a.jpg": picture,
        "masks/a.png": encode({ ...size, data: rgb, channels: 3, depth: 8 }),
        "classes.csv": "name,r,g,b\nroll,200,0,0\ntart,0,200,0\n",
      }),
    );
    expect(items.get("images/a.jpg")?.objects.map((object) => object.class)).toEqual(["roll", "roll", "tart", "tart"]);
    expect(codes).toEqual({});
  });
  it("makes names up where no table came, and says what is no PNG or far too large", async () => {
    const huge = grey(["1"]);
    new DataView(huge.buffer, huge.byteOffset).setUint32(16, 500_000);
    const { classes, codes } = await readAll(
      masks,
      new MemoryTree({
        "images/a.jpg": picture,
        "masks/a.png": grey(["12", "31"]),
        "images/b.jpg": picture,
        "masks/b.jpg": picture,
        "images/c.jpg": picture,
        "masks/c.png": huge,
      }),
    );
    expect(classes).toEqual(["class_1", "class_2", "class_3"]);
    expect(codes["classes-missing"]).toBe(1);
    expect(codes["annotation-unreadable"]).toBeGreaterThanOrEqual(2);
  });
});

describe("writing masks", () => {
  const objects = [
    { class: "roll", shape: maskOf(["111...", "111...", "......", "......"]) },
    { class: "tart", shape: maskOf(["..11..", "..11..", "......", "......"]) },
    { class: "roll", shape: { kind: "polygon" as const, parts: [[[3, 2, 6, 2, 6, 4, 3, 4]]] } },
    { class: "roll", shape: { kind: "box" as const, x: 0, y: 0, width: 2, height: 2 } },
  ];
  it("has a palette another program sees, later objects over earlier ones, and says what is lost", async () => {
    const { tree, back, losses } = await roundTrip(
      masks,
      [{ name: "roll" }, { name: "tart" }],
      [outgoing("a.jpg", "train", objects, size), outgoing("b.jpg", null, [], size)],
    );
    // The box is no region; the first roll is partly covered.
    expect(losses).toEqual({ "loss-object": 1, "loss-mask": 1 });
    const { values } = decodeMask(tree.files.get("masks/train/a.png") as Uint8Array);
    expect([...values].join("")).toBe("112200112200000111000111");
    const seen = await sharp(tree.files.get("masks/train/a.png"))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([...seen.data.subarray(0, 3)]).toEqual(paletteColour(1));
    // Colour type 3 of the header is indexed colour.
    expect(tree.files.get("masks/train/a.png")?.[25]).toBe(3);
    expect(tree.text("classes.csv").split("\n").slice(0, 2)).toEqual([
      "value,name,r,g,b",
      `1,roll,${paletteColour(1).join(",")}`,
    ]);
    expect(back.map((item) => item.objects.length)).toEqual([3, 0]);
  });
  it("tells objects of one class that touch apart with one value an object", async () => {
    const touching = [
      { class: "roll", shape: maskOf(["11....", "11....", "......", "......"]) },
      { class: "roll", shape: maskOf(["..11..", "..11..", "......", "......"]) },
    ];
    const merged = await roundTrip(masks, [{ name: "roll" }], [outgoing("a.jpg", "train", touching, size)]);
    expect([merged.losses, merged.back[0]?.objects.length]).toEqual([{ "loss-object": 1 }, 1]);
    const apart = await roundTrip(masks, [{ name: "roll" }], [outgoing("a.jpg", "train", touching, size)], {
      kind: "instance",
    });
    expect([apart.losses, apart.back[0]?.objects]).toEqual([{}, touching]);
    expect(apart.tree.text("objects.csv")).toBe("image,value,class\ntrain/a.png,1,roll\ntrain/a.png,2,roll\n");
  });
  it("goes to 16 bits where values need them", () => {
    const values = Uint16Array.from({ length: 24 }, (_, n) => n * 40);
    expect([...decodeMask(encodeMask(values, 6, 4, [])).values]).toEqual([...values]);
  });
});
