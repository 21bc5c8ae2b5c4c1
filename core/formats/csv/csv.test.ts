import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { settle } from "../settle";
import { csvBoxes } from "./boxes";
import { csvLabels, labelsOf } from "./labels";
import { csvText, guardCell, separatorOf, unguardCell } from "./table";

const pictures = { "train/a.jpg": picture, "b c.jpg": picture, "d.jpg": picture };

describe("csv-boxes", () => {
  it("reads a header in any order and case, quotes, a mark at the start, CRLF and semicolons", async () => {
    const csv =
      '\uFEFFLabel;XMax;"YMax";xmin;YMIN;File;Width;height\r\n"rye; dark";30.5;40;10;20;a.jpg;100;80\r\nroll;5;6;1;2;"b c.jpg";;\r\n';
    const { items, classes, codes } = await readAll(csvBoxes, new MemoryTree({ ...pictures, "boxes.csv": csv }));
    expect(classes).toEqual(["rye; dark", "roll"]);
    expect(items.get("train/a.jpg")).toMatchObject({
      split: "train",
      state: "labeled",
      declared: { width: 100, height: 80 },
      objects: [{ class: "rye; dark", shape: { kind: "box", x: 10, y: 20, width: 20.5, height: 20 } }],
    });
    expect(items.get("b c.jpg")?.objects[0]?.shape).toEqual({ kind: "box", x: 1, y: 2, width: 4, height: 4 });
    expect(items.get("d.jpg")?.state).toBe("unlabeled");
    expect(codes).toEqual({});
  });
  it("takes a column `name` for the picture beside a class, and for the class beside a picture", async () => {
    const asFile = await readAll(
      csvBoxes,
      new MemoryTree({ ...pictures, "x.csv": "name,label,x1,y1,x2,y2\nd.jpg,roll,1,2,3,4\n" }),
    );
    expect(asFile.items.get("d.jpg")?.objects).toEqual([
      { class: "roll", shape: { kind: "box", x: 1, y: 2, width: 2, height: 2 } },
    ]);
    const asClass = await readAll(
      csvBoxes,
      new MemoryTree({ ...pictures, "x.csv": "name,file,x1,y1,x2,y2\nroll,d.jpg,1,2,3,4\n" }),
    );
    expect(asClass.items.get("d.jpg")?.objects).toEqual(asFile.items.get("d.jpg")?.objects);
  });
  it("takes six columns without a header from the first row on; a path alone holds nothing", async () => {
    const { items, codes } = await readAll(
      csvBoxes,
      new MemoryTree({
        ...pictures,
        "list.csv": "train/a.jpg,1,2,3,4,roll\nd.jpg,,,,,\ngone.jpg,1,2,3,4,roll\nb c.jpg,x,2,3,4,roll\n",
      }),
    );
    expect(items.get("train/a.jpg")?.objects).toHaveLength(1);
    expect(items.get("d.jpg")?.state).toBe("empty");
    expect(items.get("gone.jpg")?.present).toBe(false);
    expect(items.get("b c.jpg")).toMatchObject({ state: "labeled", objects: [] });
    expect(codes).toEqual({ "image-missing": 1, "shape-degenerate": 1 });
  });
  it("takes edges that all lie within 0 and 1 as shares", async () => {
    const { items, report } = await readAll(
      csvBoxes,
      new MemoryTree({ ...pictures, "x.csv": "filename,class,x1,y1,x2,y2\nd.jpg,roll,0.1,0.25,0.5,1\n" }),
    );
    expect(
      settle(items.get("d.jpg") as never, { width: 200, height: 100, orientation: 1 }, report).objects[0]?.shape,
    ).toEqual({ kind: "box", x: 20, y: 25, width: 80, height: 75 });
  });
  it("reads splits from a column, in capitals too", async () => {
    const { items } = await readAll(
      csvBoxes,
      new MemoryTree({
        ...pictures,
        "train.csv":
          "set,path,label,xmin,ymin,xmax,ymax\nVALIDATION,d.jpg,roll,1,2,3,4\nUNASSIGNED,b c.jpg,roll,1,2,3,4\nTEST,train/a.jpg,roll,1,2,3,4\n",
      }),
    );
    expect(["d.jpg", "b c.jpg", "train/a.jpg"].map((path) => items.get(path)?.split)).toEqual(["val", null, "test"]);
  });
  it("writes a header with a split column, and cells a spreadsheet does not run", async () => {
    const { tree, losses } = await roundTrip(
      csvBoxes,
      [{ name: "=1+1" }],
      [
        outgoing("-a.jpg", "val", [
          { class: "=1+1", occluded: true, shape: { kind: "box", x: 1.5, y: 2, width: 3, height: 4 } },
        ]),
        outgoing("e.jpg", null, []),
      ],
    );
    expect(tree.text("annotations.csv")).toBe(
      "filename,width,height,class,xmin,ymin,xmax,ymax,split\nimages/val/-a.jpg,960,720,'=1+1,1.5,2,4.5,6,val\nimages/e.jpg,960,720,,,,,,\n",
    );
    expect(losses).toEqual({ "loss-attributes": 1 });
  });
});

describe("csv-labels", () => {
  const read = (csv: string, more = {}) =>
    readAll(csvLabels, new MemoryTree({ ...pictures, "labels.csv": csv, ...more }));
  it("reads further cells, lists and bars as several classes", async () => {
    expect([labelsOf("[a, 'b c']"), labelsOf("a,b"), labelsOf("a|b"), labelsOf(" a ")]).toEqual([
      ["a", "b c"],
      ["a", "b"],
      ["a", "b"],
      ["a"],
    ]);
    const plain = await read("filename,label\na.jpg,roll,seeded\nd.jpg,\n");
    expect([
      plain.items.get("train/a.jpg")?.classes,
      plain.items.get("d.jpg")?.state,
      plain.items.get("b c.jpg")?.state,
    ]).toEqual([["roll", "seeded"], "empty", "unlabeled"]);
    const lists = await read('image,labels\na.jpg,"[roll,seeded]"\nd.jpg,roll|dark\nb c.jpg,"x,y"\n');
    expect([...lists.items.values()].map(({ classes }) => classes.join("+")).sort()).toEqual([
      "roll+dark",
      "roll+seeded",
      "x+y",
    ]);
  });
  it("reads one column a class, or one an attribute", async () => {
    const flags = await read("filename,roll,tart\na.jpg,1,0\nd.jpg,1,1\nb c.jpg,0,0\n");
    expect(flags.classes).toEqual(["roll", "tart"]);
    expect([
      flags.items.get("train/a.jpg")?.classes,
      flags.items.get("d.jpg")?.classes,
      flags.items.get("b c.jpg")?.state,
    ]).toEqual([["roll"], ["roll", "tart"], "empty"]);
    const attributes = await read("filename,bake,topping\na.jpg,pale,salt\n");
    expect(attributes.items.get("train/a.jpg")).toMatchObject({
      classes: [],
      fields: { bake: "pale", topping: "salt" },
      state: "labeled",
    });
  });
  it("reads rows without a header, with the set first or without", async () => {
    const set = await read("UNASSIGNED,a.jpg,roll\nTEST,d.jpg,roll,tart\n");
    expect([
      set.items.get("d.jpg")?.split,
      set.items.get("d.jpg")?.classes,
      set.items.get("train/a.jpg")?.classes,
    ]).toEqual(["test", ["roll", "tart"], ["roll"]]);
    const bare = await read("d.jpg\troll\nnope.jpg\troll\n");
    expect([bare.items.get("d.jpg")?.classes, bare.codes["image-missing"]]).toEqual([["roll"], 1]);
  });
  it("says where no column names a picture", async () => {
    expect((await read("one,two\n1,2\n")).codes).toEqual({ "annotation-unreadable": 1 });
  });
});

describe("cells", () => {
  it("come back from guard and quotes as they were, whatever they hold", async () => {
    const cell = fc.oneof(
      fc.string(),
      fc.string({ unit: "binary" }),
      fc.constantFrom("=a", "'=a", "''-", "-1", "@x", "+", 'a"b', "a,b;c\td", "a\nb"),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 5 }), async (rows) => {
        for (const [text] of rows) expect(unguardCell(guardCell(text))).toBe(text);
        expect(csvText(rows).split("\n").length).toBeGreaterThan(rows.length);
      }),
    );
    expect([separatorOf('"a;b",c,d'), separatorOf("a;b;c,d"), separatorOf("a\tb")]).toEqual([",", ";", "\t"]);
  });
});
