import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { applySteps } from "../labels/apply";
import { noLabels } from "../labels/labels";
import { blockFor, blockText, parseBlock } from "./block-text";
import { cellSteps } from "./cell-steps";
import { cellText, completed, listEntries, parseCell } from "./cell-text";
import { attributeKey, cellValue, type CellValue, type LedgerColumn, type LedgerRow } from "./column";

const attribute = (
  schema: Extract<LedgerColumn, { kind: "attribute" }>["schema"],
  known: string[] = [],
): LedgerColumn => ({
  key: attributeKey(schema?.name ?? "free"),
  kind: "attribute",
  name: schema?.name ?? "free",
  schema,
  known,
});
const base = { required: false, help: "" };
const bake = attribute({ ...base, kind: "choice", name: "bake", values: ["pale", "golden", "Dark"] });
const seeds = attribute({ ...base, kind: "several", name: "seeds", values: ["poppy", "sesame; white"] });
const weight = attribute({ ...base, kind: "number", name: "weight", least: 0, most: 500 });
const cut = attribute({ ...base, kind: "yes-no", name: "cut" });
const note = attribute({ ...base, kind: "text", name: "note" });
const free = attribute(null, ["oak", "oval"]);
const split: LedgerColumn = { key: "split", kind: "split" };
const tags: LedgerColumn = { key: "tags", kind: "tags", names: ["blurred"] };
const classes: LedgerColumn = { key: "classes", kind: "classes", names: ["roll", "loaf", "Loaf tin"] };
const caption: LedgerColumn = { key: "caption", kind: "caption" };

describe("a cell's text", () => {
  it.each<[LedgerColumn, string, CellValue]>([
    [bake, "golden", "golden"],
    [bake, "dark", "Dark"],
    [bake, "  ", null],
    [seeds, 'poppy; "sesame; white"', ["poppy", "sesame; white"]],
    [weight, "12.5", 12.5],
    [weight, "-0", -0],
    [weight, "1e2", 100],
    [cut, "yes", true],
    [cut, "No", false],
    [cut, "", null],
    [note, '""', ""],
    [note, "12", "12"],
    [free, "12", 12],
    [free, "yes", true],
    [free, "oak", "oak"],
    [free, '""', ""],
    [split, "VAL", "val"],
    [split, "none", null],
    [tags, "late; blurred; late", ["blurred", "late"]],
    [classes, "LOAF; roll", ["loaf", "roll"]],
    [caption, "Two rolls,\nburnt", "Two rolls,\nburnt"],
  ])("%o reads %j", (column, text, value) => {
    expect(parseCell(column, text)).toEqual({ value });
  });
  it.each<[LedgerColumn, string, RegExp]>([
    [bake, "burnt", /^bake is one of pale, golden, Dark\.$/],
    [weight, "heavy", /is a number/],
    [weight, "501", /at most 500/],
    [weight, "0x10", /is a number/],
    [weight, "1e999", /is a number/],
    [cut, "perhaps", /yes or no/],
    [seeds, "poppy; rye", /holds some of/],
    [split, "validation", /A split is train, val, test/],
    [classes, "roll; bun", /There is no class "bun" here/],
    [tags, "t".repeat(101), /100 characters/],
  ])("%o refuses %j", (column, text, sentence) => {
    expect(parseCell(column, text)).toEqual({ misfit: expect.stringMatching(sentence) as string });
  });
  it("is what it was, there and back", () => {
    const entry = fc.string({ minLength: 1, maxLength: 8 }).filter((text) => text.trim() !== "");
    fc.assert(
      fc.property(fc.array(entry, { minLength: 1 }), (list) => {
        expect(listEntries(cellText(list))).toEqual(list);
      }),
    );
    for (const value of [null, "", "a b", 0, -2.5, true, false] as CellValue[]) {
      const column = value === "" || typeof value === "string" ? note : free;
      expect(parseCell(column, cellText(value))).toEqual({ value });
    }
  });
  it("is completed while its last word is typed", () => {
    expect(completed(bake, "g")).toBe("golden");
    expect(completed(bake, "d")).toBe("dark");
    expect(completed(bake, "golden")).toBeNull();
    expect(completed(classes, "roll; lo")).toBe("roll; loaf");
    expect(completed(free, "o")).toBe("oak");
    expect(completed(weight, "1")).toBeNull();
  });
});

describe("a block on the clipboard", () => {
  it("keeps tabs, line breaks and quotes within cells", () => {
    const cell = fc.string({ maxLength: 6, unit: fc.constantFrom("a", "\t", "\n", '"', ";", " ", "é") });
    const line = fc.array(cell, { minLength: 2, maxLength: 2 });
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 5 }), (rows) => {
        fc.pre(rows.at(-1)?.at(-1) !== "" || rows.length > 0);
        expect(parseBlock(`${blockText(rows)}\n`)).toEqual(rows);
      }),
    );
    expect(parseBlock('a\t"b ""c""\nd"\r\n1\t2\r\n')).toEqual([
      ["a", 'b "c"\nd'],
      ["1", "2"],
    ]);
  });
  it("fills a range it fits into, goes in once elsewhere, and is refused where there is no room", () => {
    const room = { rows: 4, columns: 3 };
    expect(blockFor([["x"]], { rows: 2, columns: 2 }, room)).toEqual([
      ["x", "x"],
      ["x", "x"],
    ]);
    expect(blockFor([["a"], ["b"]], { rows: 4, columns: 1 }, room)).toEqual([["a"], ["b"], ["a"], ["b"]]);
    expect(blockFor([["a", "b"]], { rows: 3, columns: 1 }, room)).toEqual([["a", "b"]]);
    expect(blockFor([["a", "b", "c", "d"]], { rows: 1, columns: 1 }, room)).toEqual({
      misfit: "The block is 1 × 4 cells, and from here there is room for 4 × 3. Nothing was pasted.",
    });
    expect(blockFor([], { rows: 1, columns: 1 }, room)).toEqual([]);
  });
});

describe("the steps of a cell", () => {
  const ids: Record<string, number> = { roll: 1, loaf: 2 };
  const steps = (column: LedgerColumn, value: CellValue, labels = noLabels) =>
    cellSteps([{ column, value }], labels, (name) => ids[name] ?? 0);
  it("say what comes and what goes, and nothing where it is said already", () => {
    const labels = { ...noLabels, tags: ["a", "b"], attributes: { bake: "pale" }, split: "val" as const };
    expect(steps(tags, ["b", "c"], labels)).toEqual([
      { do: "remove-tag", tag: "a" },
      { do: "add-tag", tag: "c" },
    ]);
    expect(steps(bake, "pale", labels)).toEqual([]);
    expect(steps(bake, null, labels)).toEqual([{ do: "set-image-attribute", name: "bake", value: null }]);
    expect(steps(split, null, labels)).toEqual([{ do: "set-split", split: null }]);
  });
  it("bring the state in line with a class that came or went", () => {
    const labeled = applySteps(noLabels, steps(classes, ["roll"])).after;
    expect(labeled).toMatchObject({ classes: [1], state: "labeled" });
    expect(applySteps(labeled, steps(classes, null, labeled)).after).toMatchObject({ classes: [], state: "empty" });
  });
  it("end in what the cell says", () => {
    const row: LedgerRow = {
      id: 1,
      name: "a",
      revision: 0,
      split: null,
      classes: [],
      tags: [],
      captions: [],
      attributes: {},
    };
    const value = fc.oneof(fc.string(), fc.double({ noNaN: true, noDefaultInfinity: true }), fc.boolean());
    fc.assert(
      fc.property(value, (said) => {
        const { attributes } = applySteps(noLabels, steps(free, said)).after;
        expect(cellValue({ ...row, attributes }, free)).toEqual(said);
      }),
    );
  });
});
