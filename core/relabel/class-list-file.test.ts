import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { classListText, readClassListFile, type ClassEntry } from "./class-list-file";

const roll: ClassEntry = {
  name: 'roll, "small"',
  code: "RL",
  colour: 14,
  parent: "bread",
  supercategory: null,
  attributes: [{ kind: "choice", name: "bake", values: ["pale", "dark"], required: false, help: "" }],
  keypoints: ["left", "right"],
  skeleton: [[0, 1]],
  pairs: [[0, 1]],
};
const bread: ClassEntry = { name: "bread", code: "BR", colour: 0, parent: null };

describe("a class list", () => {
  it("comes back whole as JSON, without and with the object around it", () => {
    expect(readClassListFile(classListText([roll, bread], "json"), "classes.json")).toEqual([roll, bread]);
    expect(readClassListFile(JSON.stringify([bread]), "x.JSON")).toEqual([bread]);
  });
  it("keeps names, codes, colours and parents as CSV", () => {
    const text = classListText([roll, bread], "csv");
    expect(text).toBe('name,code,colour,parent\n"roll, ""small""",RL,14,bread\nbread,BR,0,\n');
    expect(readClassListFile(text, "c.csv")).toEqual([
      { name: 'roll, "small"', code: "RL", colour: 14, parent: "bread" },
      { name: "bread", code: "BR", colour: 0, parent: null },
    ]);
  });
  it("is names alone as text, and in a CSV without facts", () => {
    expect(classListText([bread, roll], "txt")).toBe('bread\nroll, "small"\n');
    expect(readClassListFile("a\n\nb\n", "classes.txt")).toEqual([{ name: "a" }, { name: "" }, { name: "b" }]);
    expect(readClassListFile("class\na\nb\n", "x.csv")).toEqual([{ name: "a" }, { name: "b" }]);
  });
  it("keeps any name through CSV", () => {
    const name = fc.string({ minLength: 1 }).filter((text) => text.trim() === text && !/[\r\n\uFEFF]/.test(text));
    fc.assert(
      fc.property(fc.uniqueArray(name, { minLength: 1 }), (names) => {
        const text = classListText(
          names.map((one) => ({ name: one, code: "X" })),
          "csv",
        );
        expect(readClassListFile(text, "c.csv").map((entry) => entry.name)).toEqual(names);
      }),
    );
  });
  it.each([
    ["{", "its JSON is broken"],
    ['{"classes": [{"name": 1}]}', "classes.0.name"],
    ['[{"name": "a", "colour": -1}]', "classes.0.colour"],
  ])("that is none is refused: %s", (text, words) => {
    expect(() => readClassListFile(text, "x.json")).toThrow(words);
  });
});
