import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { unsafeName, uptoFirstDot, withoutExtension, isLitter, extensionOf } from "../model/file-tree";
import { MemoryTree } from "../tests/memory-tree";
import { ByteReader } from "./byte-reader";
import { readClassList } from "./class-list";
import { folderClasses } from "./class-folders/index";
import { ShardedFiles } from "./sharded-files";
import { TakenPaths } from "./taken-paths";
import { UniqueNames } from "./unique-names";

describe("names", () => {
  it("that would leave an archive are told with their reason", () => {
    expect(["/a.jpg", "C:/a.jpg", "../a.jpg", "a/../../b", "a\\..\\b", "a\u0000b"].map(unsafeName)).toEqual([
      "its path is absolute",
      "its path is absolute",
      ...Array.from({ length: 3 }, () => "its path leaves the archive"),
      "its name holds a NUL",
    ]);
    expect(["a.jpg", "a..b/c...jpg", "..a/b", "äpfel/ß.png"].map(unsafeName)).toEqual([null, null, null, null]);
  });
  it("are taken apart at their dots", () => {
    expect(["a.tar.gz", ".hidden", "x/y.z/name", "A.JPG"].map(extensionOf)).toEqual(["gz", "", "", "jpg"]);
    expect(["a.tar.gz", ".hidden", "x/y.z/name"].map(withoutExtension)).toEqual(["a.tar", ".hidden", "x/y.z/name"]);
    expect(["s/1.seg.png", "s/.x.json", "plain"].map(uptoFirstDot)).toEqual(["s/1", "s/.x", "plain"]);
    expect(["__MACOSX/a.jpg", "a/._b.jpg", "a/.DS_Store", "a/b.jpg"].map(isLitter)).toEqual([true, true, true, false]);
  });
  it("handed out by UniqueNames differ in their stems, whatever is asked for", () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom("a.jpg", "A.png", "a.jpeg", "x/a.jpg", "b", "a_2.jpg"), { maxLength: 20 }),
        (asked) => {
          const names = new UniqueNames();
          const given = asked.map((path) => withoutExtension(names.claim("f", path)).toLowerCase());
          expect(new Set(given).size).toBe(given.length);
        },
      ),
    );
  });
  it("longer than a disk takes are shortened, differ where they differed, and keep their extension", () => {
    const long = "Übergröße".repeat(30);
    const names = new UniqueNames();
    const given = [`${long}.JPG`, `${long}x.JPG`, `${long}.JPG`].map((name) => names.claim("f", name));
    expect(new Set(given).size).toBe(3);
    for (const name of given) {
      expect(Buffer.byteLength(name)).toBeLessThan(250);
      expect(name.endsWith(".JPG")).toBe(true);
      expect(name.startsWith("Übergröße")).toBe(true);
    }
    expect(
      names
        .claimPath("f", `deep/${long}/a.jpg`)
        .split("/")
        .map((part) => Buffer.byteLength(part) < 250),
    ).toEqual([true, true, true]);
  });
  it("of pictures inside shards stay apart, and never lead out", () => {
    const paths = new TakenPaths();
    expect([
      paths.claim("a.jpg", "s-0.tar"),
      paths.claim("a.jpg", "s-1.tar"),
      paths.claim("a.jpg", "s-1.tar"),
      paths.claim("../../b.jpg", "s-0.tar"),
    ]).toEqual(["a.jpg", "s-1/a.jpg", "2/a.jpg", "b.jpg"]);
  });
});

describe("class lists", () => {
  it("keep the number of a blank line, and end where the text ends", async () => {
    const tree = new MemoryTree({ "x/classes.txt": "loaf\r\n\r\n roll \r\n" });
    expect(await readClassList(tree, ["x/classes.txt"])).toEqual(["loaf", "", "roll"]);
    expect(await readClassList(tree, ["x/other.txt"])).toBeNull();
  });
});

describe("folders as classes", () => {
  it("are found below splits and shared folders, not for pictures at the top", () => {
    expect([
      ...folderClasses(["set/train/roll/1.jpg", "set/train/tart/2.jpg", "set/val/roll/3.jpg", "set/notes.txt"]),
    ]).toEqual([
      ["set/train/roll/1.jpg", "roll"],
      ["set/train/tart/2.jpg", "tart"],
      ["set/val/roll/3.jpg", "roll"],
    ]);
    expect(folderClasses(["1.jpg", "2.jpg"]).size).toBe(0);
    expect([...folderClasses(["roll/1.jpg", "_unlabeled/2.jpg", "3.jpg"])]).toEqual([["roll/1.jpg", "roll"]]);
  });
});

describe("shards", () => {
  it("are named by their number and how many there are, once all is written", async () => {
    const tree = new MemoryTree();
    const shards = new ShardedFiles(tree);
    for (const text of ["one", "two"]) await shards.append(new TextEncoder().encode(text));
    expect([...tree.files.keys()]).toEqual([]);
    await shards.commit((number, count) => `part-${number}-of-${count}`);
    expect([...tree.files].map(([path, bytes]) => [path, new TextDecoder().decode(bytes)])).toEqual([
      ["part-0-of-1", "onetwo"],
    ]);
  });
});

describe("ByteReader", () => {
  it("takes a stream apart as one piece, however it comes", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ maxLength: 300 }),
        fc.integer({ min: 1, max: 50 }),
        fc.array(fc.integer({ min: 0, max: 60 }), { maxLength: 12 }),
        async (bytes, chunk, lengths) => {
          const reader = new ByteReader(new MemoryTree({ f: bytes }, chunk).stream("f"));
          let at = 0;
          for (const length of lengths) {
            expect([...(await reader.take(length))]).toEqual([...bytes.subarray(at, at + length)]);
            at = Math.min(bytes.length, at + length);
            expect(reader.position).toBe(at);
          }
          await reader.close();
        },
      ),
    );
  });
});
