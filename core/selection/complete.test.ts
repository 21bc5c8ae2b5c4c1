import { describe, expect, it } from "vitest";
import { completeAt } from "./complete";
import { parseSelection } from "./parse";
import { unknownNames } from "./unknown";
import type { Vocabulary } from "./vocabulary";

const vocabulary: Vocabulary = {
  classes: [
    { value: "pretzel", count: 12 },
    { value: "rye bread", count: 3 },
    { value: "12", count: 1 },
  ],
  fields: { tag: [{ value: "night shift", count: 7 }], split: [{ value: "train", count: 1200 }], delivery: [] },
  image: [
    { name: "shift", values: [{ value: "late", count: 4 }] },
    { name: "width", values: [] },
  ],
  object: [{ name: "bake", values: [{ value: "dark", count: 9 }] }],
};

/** What is proposed where the bar stands. */
const at = (text: string, wanted?: string) => {
  const cursor = text.indexOf("|");
  const { from, proposals } = completeAt(text.replace("|", ""), cursor, vocabulary);
  const texts = proposals.map((one) => one.text);
  return { from, texts, detail: proposals.find((one) => one.text === wanted)?.detail };
};

describe("completing a selection", () => {
  it("offers fields, attributes and the words that begin a test", () => {
    const { texts } = at("|");
    expect(texts).toEqual(expect.arrayContaining(["split", "shift", 'field "width"', "has", "no", "not", "("]));
    expect(texts).not.toContain("and");
    expect(at("sp|")).toMatchObject({ from: 0 });
    expect(at("sp|").texts[0]).toBe("split");
  });
  it("offers classes after has and no, with how many have them, quoted where they must be", () => {
    expect(at("has |", "pretzel")).toMatchObject({ detail: "12" });
    expect(at("has |").texts).toEqual(expect.arrayContaining(["any", '"rye bread"', '"12"', "{"]));
    expect(at("has 3.. pre|").texts).toEqual(["pretzel"]);
    expect(at("has {pretzel, |").texts).toContain('"rye bread"');
    expect(at('no "rye|')).toEqual({ from: 3, texts: ['"rye bread"'], detail: undefined });
  });
  it("offers the values of the field that is asked", () => {
    expect(at("split = |", "train")).toMatchObject({ detail: "1,200" });
    expect(at("not (tag in {|").texts).toContain('"night shift"');
    expect(at("pinned = |").texts).toEqual(["yes", "no", ".."]);
    expect(at("shift != |").texts).toContain("late");
    expect(at("state = |").texts).toEqual(expect.arrayContaining(["unlabeled", "empty", "labeled"]));
  });
  it("offers an object's fields and values inside the brackets of has alone", () => {
    const { texts } = at("has pretzel (|");
    expect(texts).toEqual(expect.arrayContaining(["bake", "share", "confidence"]));
    expect(texts).not.toContain("split");
    expect(at("has pretzel (bake = |").texts).toContain("dark");
    expect(at("has pretzel (bake = dark, sha|").texts).toEqual(["share", "shape"]);
    expect(at("has pretzel (bake = dark) and spl|").texts).toContain("split");
    expect(at("(spl|").texts).toContain("split");
  });
  it("offers what joins, and set or unset", () => {
    expect(at("split = train |").texts).toEqual(expect.arrayContaining(["and", "or"]));
    expect(at("shift is |").texts).toEqual(["set", "unset"]);
    expect(at("shift |").texts).toEqual(expect.arrayContaining(["=", "!=", "in", "like", "is"]));
  });
  it("offers nothing where what stands before cannot be read", () => {
    expect(at('name = "open" ! |').texts).toEqual([]);
  });
});

describe("names that nothing has", () => {
  it("are found with their places: classes, words and listed values", () => {
    const text = 'has {pretzel, zeppelin} and split = late and tag = "night shift" and has any (shape = blob)';
    expect(unknownNames(parseSelection(text), vocabulary)).toEqual([
      { name: "zeppelin", what: "class", at: 14, length: 8 },
      { name: "late", what: "value", at: 36, length: 4 },
      { name: "blob", what: "value", at: 86, length: 4 },
    ]);
  });
  it("are none for patterns, attributes and values that are not listed", () => {
    expect(unknownNames(parseSelection('tag like "x*" or shift = early or name = x'), vocabulary)).toEqual([]);
  });
});
