import { describe, expect, it } from "vitest";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { voc } from "./index";
import { decideOrigin } from "./read";

const object = (name: string, box: (number | string)[], more = "") =>
  `<object><name>${name}</name>${more}<bndbox><xmin>${box[0]}</xmin><ymin>${box[1]}</ymin><xmax>${box[2]}</xmax><ymax>${box[3]}</ymax></bndbox></object>`;
const sheet = (objects: string, filename = "whatever.jpg") =>
  `<annotation><filename>${filename}</filename><size><width>100</width><height>80</height><depth>3</depth></size>${objects}</annotation>`;

const crust = "<bndbox><xmin>11</xmin><ymin>6</ymin><xmax>12</xmax><ymax>7</ymax></bndbox>";

describe("reading voc", () => {
  it("counts from 1 with inclusive edges, as published, and says that it had to choose", async () => {
    const { items, codes, classes } = await readAll(
      voc,
      new MemoryTree({
        "JPEGImages/a.jpg": picture,
        "Annotations/a.xml": `\uFEFF<?xml version="1.0"?>${sheet(
          object("roll", [1, 1, 100, 80], "<difficult>1</difficult>") +
            object("Brötchen &amp; more", ["10.5", 5, 20, 9], `<part><name>crust</name>${crust}</part>`),
        )}`,
      }),
    );
    expect(items.get("JPEGImages/a.jpg")?.objects).toEqual([
      { class: "roll", difficult: true, shape: { kind: "box", x: 0, y: 0, width: 100, height: 80 } },
      { class: "Brötchen & more", shape: { kind: "box", x: 9.5, y: 4, width: 10.5, height: 5 } },
    ]);
    expect(classes).toEqual(["roll", "Brötchen & more"]);
    expect(codes).toEqual({ "format-ambiguous": 1 });
  });
  it("joins texts and CDATA, and makes numeric references into their signs", async () => {
    const { classes, codes } = await readAll(
      voc,
      new MemoryTree({
        "a.jpg": picture,
        "a.xml": sheet(
          ["Br&#246;t<![CDATA[chen]]>", "two &#x77;ords", "a<![CDATA[ & b]]>", " rye<!-- dark --> "]
            .map((name) => object(name, [0, 10, 30, 40]))
            .join(""),
        ),
      }),
    );
    expect(classes).toEqual(["Brötchen", "two words", "a & b", "rye"]);
    expect(codes).toEqual({});
  });
  it("decides a whole delivery at once", async () => {
    const files = {
      "a.jpg": picture,
      "b.jpg": picture,
      "a.xml": sheet(object("roll", [0, 10, 30, 40])),
      "b.xml": sheet(object("roll", [5, 5, 25, 25])),
    };
    const zero = await readAll(voc, new MemoryTree(files));
    expect(zero.items.get("b.jpg")?.objects[0]?.shape).toMatchObject({ x: 5, width: 20 });
    expect(zero.codes).toEqual({});
    const asked = await readAll(voc, new MemoryTree(files), { origin: "one" });
    expect(asked.items.get("b.jpg")?.objects[0]?.shape).toMatchObject({ x: 4, width: 21 });
    expect(decideOrigin([{ xmin: 4, ymin: 4, xmax: 4, ymax: 9 }])).toEqual({ origin: 1, decided: true });
    expect(
      decideOrigin([
        { xmin: 4, ymin: 4, xmax: 4, ymax: 9 },
        { xmin: 0, ymin: 4, xmax: 9, ymax: 9 },
      ]),
    ).toEqual({ origin: 0, decided: true });
  });
  it("goes by the sheet's own name, reads image sets, Latin-1, and tells empty from unlabeled", async () => {
    const latin = Buffer.from(
      `<?xml version="1.0" encoding="ISO-8859-1"?>${sheet(object("Brötchen", [2, 2, 9, 9]))}`,
      "latin1",
    );
    const { items, classes } = await readAll(
      voc,
      new MemoryTree({
        "JPEGImages/a.jpg": picture,
        "JPEGImages/b.jpg": picture,
        "JPEGImages/c.jpg": picture,
        "Annotations/a.xml": latin,
        "Annotations/b.xml": sheet("", "a.jpg"),
        "ImageSets/Main/val.txt": "b\n",
        "ImageSets/Main/train.txt": "a\r\nc\n",
        "ImageSets/Main/roll_val.txt": "c 1\n",
      }),
    );
    expect(classes).toEqual(["Brötchen"]);
    // Without a declaration the bytes tell: what is no UTF-8 is Latin-1.
    const bare = await readAll(
      voc,
      new MemoryTree({ "a.jpg": picture, "a.xml": Buffer.from(sheet(object("Brötchen", [2, 2, 9, 9])), "latin1") }),
    );
    expect(bare.classes).toEqual(["Brötchen"]);
    expect(
      [..."abc"].map((stem) => items.get(`JPEGImages/${stem}.jpg`)).map((item) => [item?.state, item?.split]),
    ).toEqual([
      ["labeled", "train"],
      ["empty", "val"],
      ["unlabeled", "train"],
    ]);
  });
  it("keeps going through broken sheets, entity bombs and boxes that are no numbers", async () => {
    const bomb = `<!DOCTYPE a [<!ENTITY x "lol"><!ENTITY y "&x;&x;&x;">]><annotation><object><name>&y;</name></object></annotation>`;
    const { items, codes } = await readAll(
      voc,
      new MemoryTree({
        "a.jpg": picture,
        "b.jpg": picture,
        "c.jpg": picture,
        "a.xml": "<annotation><object>",
        "b.xml": bomb,
        "c.xml": sheet(object("roll", ["NaN", "", "x", 3])),
        "d.xml": sheet(object("roll", [1, 1, 5, 5]), "d.jpg"),
      }),
    );
    expect(codes).toEqual({
      "annotation-unreadable": 2,
      "format-ambiguous": 1,
      "image-missing": 1,
      "shape-degenerate": 1,
    });
    expect(items.get("a.jpg")?.state).toBe("unlabeled");
  });
});

describe("writing voc", () => {
  const box = (x: number, y: number, width: number, height: number) => ({ kind: "box" as const, x, y, width, height });
  const size = { width: 100, height: 80 };
  it("rounds to whole pixels that count from 1, stays inside and is never empty, by hand", async () => {
    const objects = [
      box(0, 0, 100, 80),
      box(9.5, 4.4, 10.5, 5),
      box(99.8, 79.7, 0.2, 0.3),
      box(20.2, 20.2, 0.4, 0.4),
    ].map((shape) => ({ class: "a & b", shape, difficult: true }));
    const { tree, back } = await roundTrip(
      voc,
      [{ name: "a & b" }],
      [
        outgoing("x/a.b.jpg", "val", objects, size),
        outgoing("e.jpg", null, [], size),
        outgoing("u.jpg", "val", [], size, { state: "unlabeled" }),
      ],
    );
    const edges = [
      ...tree
        .text("Annotations/a.b.xml")
        .matchAll(/<xmin>(\d+)<\/xmin>\s*<ymin>(\d+)<\/ymin>\s*<xmax>(\d+)<\/xmax>\s*<ymax>(\d+)<\/ymax>/g),
    ].map((match) => match.slice(1).map(Number));
    expect(edges).toEqual([
      [1, 1, 100, 80],
      [11, 5, 20, 9],
      [100, 80, 100, 80],
      [21, 21, 21, 21],
    ]);
    expect(tree.text("Annotations/a.b.xml")).toMatch(/<name>a &amp; b<\/name>[\s\S]*<difficult>1<\/difficult>/);
    expect(tree.text("ImageSets/Main/val.txt")).toBe("a.b\nu\n");
    expect([...tree.files.keys()].filter((path) => path.startsWith("Annotations/")).sort()).toEqual([
      "Annotations/a.b.xml",
      "Annotations/e.xml",
    ]);
    expect(back.map((item) => item.state).sort()).toEqual(["empty", "labeled", "unlabeled"]);
  });
  it("counts from 0 with exclusive edges when asked", async () => {
    const { tree, back } = await roundTrip(
      voc,
      [{ name: "roll" }],
      [outgoing("a.jpg", "val", [{ class: "roll", shape: box(10, 20, 30, 40), attributes: { pose: "Left" } }], size)],
      { "write-origin": "zero" },
    );
    expect(tree.text("Annotations/a.xml")).toMatch(
      /<pose>Left<\/pose>[\s\S]*<xmin>10<\/xmin>\s*<ymin>20<\/ymin>\s*<xmax>40<\/xmax>\s*<ymax>60<\/ymax>/,
    );
    expect(back[0]?.objects[0]).toMatchObject({ attributes: { pose: "Left" }, shape: box(10, 20, 30, 40) });
  });
});
