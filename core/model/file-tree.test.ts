import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Failure, sentenceFor } from "./failure";
import { baseName, extensionOf, folderOf, textOf, unsafeName, uptoFirstDot, withoutExtension } from "./file-tree";

describe("paths", () => {
  it("come apart and together again", () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[ab./]{0,12}$/), (path) => {
        const folder = folderOf(path);
        expect(path.includes("/") ? `${folder}/${baseName(path)}` : baseName(path)).toBe(path);
        const extension = extensionOf(path);
        expect(extension === "" ? withoutExtension(path) : `${withoutExtension(path)}.${extension}`).toBe(path);
      }),
    );
  });
  it.each([
    ["shard/0001.left.jpg", "shard/0001"],
    ["0001.json", "0001"],
    ["a.b/0001", "a.b/0001"],
    [".hidden.jpg", ".hidden"],
    ["x/.hidden", "x/.hidden"],
  ])("of %s, up to the first dot of its name, is %s", (path, wanted) => {
    expect(uptoFirstDot(path)).toBe(wanted);
  });
  it.each([
    ["/etc/passwd", /absolute/],
    ["C:\\x.jpg", /absolute/],
    ["d:x.jpg", /absolute/],
    ["a/../b.jpg", /leaves the archive/],
    ["a\\..\\b.jpg", /leaves the archive/],
    ["..", /leaves the archive/],
    ["a\u0000.jpg", /NUL/],
  ])("like %j are not taken from an archive", (name, reason) => {
    expect(unsafeName(name)).toMatch(reason);
  });
  it.each(["a..b/c...jpg", "...", "x/..hidden", "10:15.jpg", "Brötchen.jpg"])("like %s are", (name) => {
    expect(unsafeName(name)).toBeNull();
  });
});

describe("textOf", () => {
  it("is UTF-8 without its mark, and Latin-1 where it is not valid UTF-8", () => {
    expect(textOf(new Uint8Array([0xef, 0xbb, 0xbf, 0x61]))).toBe("a");
    expect(textOf(new TextEncoder().encode("Brötchen パン"))).toBe("Brötchen パン");
    expect(textOf(new Uint8Array([0x42, 0x72, 0xf6, 0x74]))).toBe("Bröt");
    expect(textOf(new Uint8Array(0))).toBe("");
  });
});

describe("sentenceFor", () => {
  it("gives a failure's own words, and plain ones for anything else", () => {
    expect(sentenceFor(new Failure("class-unknown", "There is no class 7.", 404))).toEqual({
      code: "class-unknown",
      message: "There is no class 7.",
    });
    expect(sentenceFor(Object.assign(new Error("write"), { code: "ENOSPC" }))).toEqual({
      code: "disk-full",
      message: "The disk is full. Free some space, then try again.",
    });
    expect(sentenceFor("odd").code).toBe("unexpected");
    const query = Object.assign(new Error("Failed query: select secret from t where id = $1"), { cause: { x: 1 } });
    expect(sentenceFor(query).message).not.toMatch(/select|secret/);
    const away = new Error("Failed query", { cause: Object.assign(new Error("connect"), { code: "ECONNREFUSED" }) });
    expect(sentenceFor(away).code).toBe("database-away");
    expect(sentenceFor(Object.assign(new Error("x"), { code: "constructor" })).code).toBe("unexpected");
    expect(sentenceFor(null).code).toBe("unexpected");
  });
});
