import { describe, expect, it } from "vitest";
import { splitFromFileName, splitFromName, splitFromPath } from "../model/split-name";
import { extensionOf, isImagePath, isLitter, withoutExtension } from "../model/file-tree";
import { ImageIndex } from "./image-index";
import { UniqueNames } from "./unique-names";

const index = (...paths: string[]) => new ImageIndex(paths.map((path) => ({ path, size: 1 })));

describe("ImageIndex", () => {
  it("finds by exact path, beside the annotation, without leading folders, and by a base name that is unique", () => {
    const pictures = index("set/images/a.jpg", "set/images/b.jpg", "set/other/c.jpg");
    expect(pictures.find("set/images/a.jpg", "x.json")).toEqual({ path: "set/images/a.jpg" });
    expect(pictures.find("images/a.jpg", "set/x.json")).toEqual({ path: "set/images/a.jpg" });
    expect(pictures.find("/home/somebody/set/images/b.jpg", "x.json")).toEqual({ path: "set/images/b.jpg" });
    expect(pictures.find("c.jpg", "x.json")).toEqual({ path: "set/other/c.jpg" });
    expect(pictures.find("d.jpg", "x.json")).toBeNull();
  });

  it("sees through back-slashes, URL-escapes, Unicode forms and, last, case", () => {
    const pictures = index("in/Brötchen 1.JPG", "in/plain.jpg", "in/50%25.jpg");
    expect(pictures.find("in\\plain.jpg", "x")).toEqual({ path: "in/plain.jpg" });
    expect(pictures.find("in/Br%C3%B6tchen%201.JPG", "x")).toEqual({ path: "in/Brötchen 1.JPG" });
    expect(pictures.find("in/Bro\u0308tchen 1.JPG", "x")).toEqual({ path: "in/Brötchen 1.JPG" });
    expect(pictures.find("PLAIN.JPG", "x")).toEqual({ path: "in/plain.jpg" });
    expect(pictures.find("in/50%25.jpg", "x")).toEqual({ path: "in/50%25.jpg" });
    expect(pictures.find("100%.jpg", "x")).toBeNull();
  });

  it("says which fit where several do, and lets folders, split and place decide before that", () => {
    const pictures = index("one/a.jpg", "two/a.jpg", "train/b.jpg", "val/b.jpg", "deep/x/c.jpg", "deep/y/c.jpg");
    expect(pictures.find("a.jpg", "list.json")).toEqual({ ambiguous: ["one/a.jpg", "two/a.jpg"] });
    expect(pictures.find("somewhere/two/a.jpg", "list.json")).toEqual({ path: "two/a.jpg" });
    expect(pictures.find("b.jpg", "annotations/instances_val2020.json")).toEqual({ path: "val/b.jpg" });
    expect(index("train2017/b.jpg", "val2017/b.jpg").find("b.jpg", "annotations/instances_val2017.json")).toEqual({
      path: "val2017/b.jpg",
    });
    expect(pictures.find("c.jpg", "deep/y/list.json")).toEqual({ path: "deep/y/c.jpg" });
  });
});

describe("split names", () => {
  it("are understood whatever their case, in folders, and as words of a file's name", () => {
    expect(["Training", "DEV", "valid", "Testing", "evaluation", "holdout"].map(splitFromName)).toEqual([
      "train",
      "val",
      "val",
      "test",
      "test",
      null,
    ]);
    expect(splitFromPath("set/Validation/roll/train.jpg")).toBe("val");
    expect(["train2017", "val_2012", "TEST-2020", "train1", "testbed"].map(splitFromName)).toEqual([
      "train",
      "val",
      "test",
      null,
      null,
    ]);
    expect(splitFromPath("train.jpg")).toBeNull();
    expect(splitFromFileName("instances_val2017.json")).toBe("val");
    expect(splitFromFileName("constraint.json")).toBeNull();
  });
});

describe("paths", () => {
  it("have extensions, and litter is known", () => {
    expect([extensionOf("a/b.c/d"), extensionOf("a/.hidden"), extensionOf("x.tar.GZ")]).toEqual(["", "", "gz"]);
    expect(withoutExtension("a.b/c.d.jpg")).toBe("a.b/c.d");
    expect([isImagePath("x/y.JPEG"), isImagePath("y.txt")]).toEqual([true, false]);
    expect([isLitter("__MACOSX/a.jpg"), isLitter("x/._a.jpg"), isLitter("x/a.jpg")]).toEqual([true, true, false]);
  });
  it("get unique stems a folder, without regard to case", () => {
    const names = new UniqueNames();
    expect(["x/a.jpg", "y/A.png", "a.jpg"].map((path) => names.claim("train", path))).toEqual([
      "a.jpg",
      "A_2.png",
      "a_3.jpg",
    ]);
    expect(names.claim("val", "a.jpg")).toBe("a.jpg");
  });
});
