import fc from "fast-check";
import { createHash } from "node:crypto";
import { describe, expect, it } from "vitest";
import { canonicalJson } from "./canonical-json";
import { ManifestDigest, manifestDigest, type ManifestLine } from "./manifest";
import { OutputNames } from "./output-names";

const line = (n: number, copy = 0): ManifestLine => ({
  source: createHash("sha256").update(String(n)).digest("hex"),
  copy,
  name: `rack_${n}.jpg`,
  split: "train",
  state: "labeled",
  size: { width: 640, height: 480 },
  transform: { orientation: 1, resize: null, flipSideways: copy > 0 },
  objects: [{ class: "roll", shape: { kind: "box", x: 1 + n / 3, y: 2, width: 30, height: 40 } }],
  classes: [],
  captions: [],
  fields: {},
});
const header = { larder: "manifest 1" as const, classes: [{ name: "roll" }] };

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

describe("names of outputs", () => {
  it("takes the base name, a word for copies, and the extension of the bytes", () => {
    const names = new OutputNames();
    expect(names.claim("images/a b.jpeg", 0, "jpg")).toBe("a b.jpg");
    expect(names.claim("a.tif", 2, "png")).toBe("a_copy2.png");
  });
});
