import fc from "fast-check";
import { createHash } from "node:crypto";
import { describe, expect, it } from "vitest";
import { canonicalJson } from "./canonical-json";
import { recipeOfFirst } from "./first-manifest";
import { ManifestDigest, manifestDigest, readHeader, readLine, renderKey, type ManifestLine } from "./manifest";
import { outputName, OutputNames } from "./output-names";

const line = (n: number, copy = 0): ManifestLine => ({
  source: createHash("sha256").update(String(n)).digest("hex"),
  copy,
  name: `rack_${n}.jpg`,
  split: "train",
  state: "labeled",
  size: { width: 640, height: 480 },
  made: copy > 0,
  recipe: recipeOfFirst(
    "ab".repeat(32),
    { orientation: 1, resize: null, flipSideways: copy > 0 },
    { width: 640, height: 480 },
  ),
  objects: [{ class: "roll", shape: { kind: "box", x: 1 + n / 3, y: 2, width: 30, height: 40 } }],
  classes: [],
  captions: [],
  fields: {},
});
const header = {
  larder: "manifest 2" as const,
  classes: [{ name: "roll" }],
  images: { as: "same" as const, quality: 92 },
};

describe("canonicalJson", () => {
  it("orders keys and leaves out what is undefined", () => {
    expect(canonicalJson({ b: 1, a: [{ d: undefined, c: "x" }], aa: null })).toBe('{"a":[{"c":"x"}],"aa":null,"b":1}');
  });
  it("parses back to the same value", () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(JSON.parse(canonicalJson(value))).toEqual(JSON.parse(JSON.stringify(value)));
      }),
    );
  });
});

describe("manifestDigest", () => {
  it("does not depend on the order of rows", () => {
    const lines = [1, 2, 3, 4].flatMap((n) => [line(n), line(n, 1)]);
    const digest = manifestDigest(header, lines);
    fc.assert(
      fc.property(fc.shuffledSubarray(lines, { minLength: lines.length }), (shuffled) => {
        expect(manifestDigest(header, shuffled)).toBe(digest);
      }),
    );
  });
  it("is the SHA-256 of the lines, worked out by another implementation", () => {
    const lines = [line(1), line(2)].sort((a, b) => (a.source < b.source ? -1 : 1));
    const text = [header, ...lines].map((value) => `${canonicalJson(value)}\n`).join("");
    expect(manifestDigest(header, lines)).toBe(createHash("sha256").update(text).digest("hex"));
  });
  it("changes with a label, a split, the class list", () => {
    const digest = manifestDigest(header, [line(1)]);
    expect(manifestDigest(header, [{ ...line(1), split: "val" }])).not.toBe(digest);
    expect(manifestDigest(header, [{ ...line(1), objects: [] }])).not.toBe(digest);
    expect(manifestDigest({ ...header, classes: [{ name: "rolls" }] }, [line(1)])).not.toBe(digest);
  });
  it("refuses a line twice or out of order", () => {
    const digest = new ManifestDigest(header);
    digest.add(line(1));
    expect(() => digest.add(line(1))).toThrow(/out of order/);
  });
});

describe("a manifest of the first number", () => {
  const transform = { orientation: 1, resize: null, flipSideways: true };
  const { recipe: _, made: __, tile: ___, ...old } = { tile: undefined, ...line(1, 1) };
  it("is read as what it said, and its renderings are found where they were kept", () => {
    const text = canonicalJson({ ...old, transform });
    const read = readLine(text);
    expect(read).toMatchObject({ made: true, recipe: { warp: [-1, 0, 640, 0, 1, 0, 0, 0, 1] } });
    const key = createHash("sha256")
      .update(canonicalJson({ source: old.source, transform }))
      .digest("hex");
    expect(renderKey(read, header.images)).toBe(key);
    expect(readHeader('{"larder":"manifest 1","classes":[{"name":"roll"}]}').classes).toEqual([{ name: "roll" }]);
    expect(readLine(canonicalJson(line(1)))).toEqual(line(1));
  });
});

describe("names of outputs", () => {
  const claim = (template: string, multiplied: boolean, names: string[]) => {
    const given = new OutputNames(template, multiplied);
    return names.map((name, at) => given.claim({ name, key: String(at).repeat(64), split: "train" }));
  };
  it("follow the template, each once whatever its case and extension", () => {
    expect(claim("{name}", false, ["a/1.jpg", "b/1.jpg", "b/1.png", "c/1.JPG", "1_2.jpg", "a.b.jpg"])).toEqual([
      "1",
      "1_2",
      "1_3",
      "1_4",
      "1_2_2",
      "a.b",
    ]);
    expect(claim("{split}-{number}", false, ["a.jpg", "b.jpg"])).toEqual(["train-000001", "train-000002"]);
    expect(claim("{hash}", false, ["a.jpg"])).toEqual(["0".repeat(16)]);
  });
  it("of copies and tiles never meet those of an image that is called like one", () => {
    const [plain, like] = claim("{name}", true, ["a.jpg", "a_copy1.jpg"]) as [string, string];
    const all = [plain, like].flatMap((stem) => [0, 1, 2].map((copy) => outputName(stem, null, copy, "jpg")));
    expect(new Set(all).size).toBe(6);
    expect(outputName("a", { row: 0, column: 1 }, 2, "png")).toBe("a_r0c1_copy2.png");
    expect(outputName("a", null, 0, "")).toBe("a");
  });
});
