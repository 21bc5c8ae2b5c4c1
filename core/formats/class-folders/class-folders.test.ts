import { describe, expect, it } from "vitest";
import { MemoryTree } from "../../tests/memory-tree";
import { outgoing, picture, readAll, roundTrip } from "../../tests/reading";
import { sniff } from "../sniff";
import { classFolders } from "./index";

const of = (...paths: string[]) => new MemoryTree(Object.fromEntries(paths.map((path) => [path, picture])));
const readingOf = async (...paths: string[]) =>
  Object.fromEntries(
    [...(await readAll(classFolders, of(...paths))).items.values()].map((item) => [
      item.path,
      [item.split, ...item.classes].join(" ").trim(),
    ]),
  );

describe("reading folders of classes", () => {
  it("takes class, or split and class, in any script and with dots and blanks", async () => {
    expect(await readingOf("rye v1.2/a.jpg", "パン/a.jpg", "top.jpg")).toEqual({
      "rye v1.2/a.jpg": "rye v1.2",
      "パン/a.jpg": "パン",
      "top.jpg": "",
    });
    expect(await readingOf("Train/roll/a.jpg", "VALID/roll/b.jpg", "testing/tart/deep/c.jpg")).toEqual({
      "Train/roll/a.jpg": "train roll",
      "VALID/roll/b.jpg": "val roll",
      "testing/tart/deep/c.jpg": "test tart",
    });
  });
  it("skips folders that all pictures share, but not the only class nor a split", async () => {
    expect(await readingOf("set/v2/roll/a.jpg", "set/v2/tart/b.jpg")).toEqual({
      "set/v2/roll/a.jpg": "roll",
      "set/v2/tart/b.jpg": "tart",
    });
    expect(await readingOf("roll/a.jpg", "roll/b.jpg")).toEqual({ "roll/a.jpg": "roll", "roll/b.jpg": "roll" });
    expect(await readingOf("train/roll/a.jpg", "train/roll/b.jpg")).toEqual({
      "train/roll/a.jpg": "train roll",
      "train/roll/b.jpg": "train roll",
    });
  });
  it("knows the folder of what nobody has labeled", async () => {
    const { items, classes } = await readAll(classFolders, of("roll/a.jpg", "_unlabeled/b.jpg", "Unlabeled/c.jpg"));
    expect(classes).toEqual(["roll"]);
    expect(["roll/a.jpg", "_unlabeled/b.jpg", "Unlabeled/c.jpg"].map((path) => items.get(path)?.state)).toEqual([
      "labeled",
      "unlabeled",
      "unlabeled",
    ]);
  });
  it("is what folders of pictures are taken for, unless annotations lie beside them", async () => {
    expect((await sniff(of("roll/a.jpg", "tart/b.jpg")))[0]?.format.name).toBe("class-folders");
    const both = await sniff(
      new MemoryTree(
        {
          "roll/a.jpg": picture,
          "tart/b.jpg": picture,
          "a.json": '{"images": [], "annotations": [], "categories": []}',
        },
        4096,
      ),
    );
    expect(both.map(({ format }) => format.name).slice(0, 2)).toEqual(["coco", "class-folders"]);
    expect(both.every(({ reason }) => reason.length > 5)).toBe(true);
  });
});

describe("writing folders of classes", () => {
  const item = (path: string, classes: string[]) => outgoing(path, "val", [], undefined, { state: "labeled", classes });
  it("gives pictures of one name in one folder names of their own, and keeps those of different folders", async () => {
    const { tree } = await roundTrip(
      classFolders,
      [{ name: "roll" }, { name: "tart" }],
      [item("x/a.jpg", ["roll"]), item("y/a.jpg", ["roll"]), item("z/a.jpg", ["tart"])],
    );
    expect([...tree.files.keys()].filter((path) => path.endsWith(".jpg"))).toEqual([
      "val/roll/a.jpg",
      "val/roll/a_2.jpg",
      "val/tart/a.jpg",
    ]);
  });
  it("writes a picture of two classes once when asked, and never a folder that leads elsewhere", async () => {
    const { tree, losses } = await roundTrip(
      classFolders,
      [{ name: ".." }, { name: "a/b" }, { name: "a_b" }],
      [item("a.jpg", ["..", "a/b"]), item("b.jpg", ["a_b"]), item("c.jpg", ["a/b"])],
      { multi: "first" },
    );
    expect([...tree.files.keys()].filter((path) => path.endsWith(".jpg"))).toEqual([
      "val/_/a.jpg",
      "val/a_b_2/b.jpg",
      "val/a_b/c.jpg",
    ]);
    expect(losses).toEqual({ "loss-image-class": 1, "folder-renamed": 3 });
  });
  it("brings back classes whose names no folder can have", async () => {
    const long = "Brötchen ".repeat(40).trim();
    const names = [long, `${long}s`, "a/b", "train", "unlabeled", "..", "roll"];
    const { back, classes, tree } = await roundTrip(
      classFolders,
      names.map((name) => ({ name })),
      names.map((name, n) => item(`${n}.jpg`, [name])),
    );
    expect(back.map(({ path, classes: [name] }) => [path.split("/").at(-1), name])).toEqual(
      names.map((name, n) => [`${n}.jpg`, name]),
    );
    expect([...classes].sort()).toEqual([...names].sort());
    for (const path of tree.files.keys())
      for (const part of path.split("/")) expect(Buffer.byteLength(part)).toBeLessThanOrEqual(255);
  });
  it("takes the top, the last or all levels of nested folders, and says that there are levels", async () => {
    const tree = of("Sailboat/dinghy/a.jpg", "Sailboat/b.jpg", "Cargo/c.jpg");
    const classesWith = async (levels?: string) =>
      (await readAll(classFolders, tree, levels === undefined ? {} : { levels })).classes;
    expect(await classesWith()).toEqual(["Cargo", "Sailboat"]);
    expect(await classesWith("last")).toEqual(["Cargo", "Sailboat", "dinghy"]);
    expect(await classesWith("path")).toEqual(["Cargo", "Sailboat", "Sailboat/dinghy"]);
    const { report } = await readAll(classFolders, tree);
    expect(report.list()[0]?.message).toContain('"Sailboat/dinghy" holds levels');
    expect((await readAll(classFolders, tree, { levels: "top" })).codes).toEqual({});
  });
});
