/** The selection language: texts worked through by hand, errors and where they point, and properties of any tree. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSelections } from "../tests/random-selections";
import { parseSelection } from "./parse";
import { predicateOf, type SelectableImage, type SelectableObject } from "./predicate";
import { printSelection } from "./print";
import { SelectionError } from "./selection-error";
import { understandSelection } from "./selection";
import type { SelectionTree } from "./tree";

const box = (name: string, more: Partial<SelectableObject> = {}): SelectableObject => ({
  class: name,
  x: 10,
  y: 20,
  width: 30,
  height: 40,
  area: 1200,
  shape: "box",
  ...more,
});

const image = (more: Partial<SelectableImage> = {}): SelectableImage => ({
  name: "racks/rack_01.jpg",
  split: null,
  state: "labeled",
  classes: [],
  objects: [],
  width: 200,
  height: 100,
  bytes: 5000,
  ...more,
});

const attributes = { image: ["shift", "Weather", "field", "split", "rating"], object: ["bake", "bake time"] };
const means = (text: string, one: SelectableImage) => predicateOf(understandSelection(text, attributes))(one);
const day = (text: string) => Date.parse(`${text}Z`);

/** A text, an image it means and one it does not. */
const worked: [string, Partial<SelectableImage>, Partial<SelectableImage>][] = [
  [
    "has pretzel (bake = dark, share < 6%) and split = train",
    { split: "train", objects: [box("pretzel", { area: 1100, attributes: { bake: "dark" } })] },
    { split: "train", objects: [box("pretzel", { attributes: { bake: "dark" } }), box("roll", { area: 10 })] },
  ],
  [
    "has 3.. roll and no tart",
    { objects: [box("roll"), box("roll"), box("roll")] },
    { objects: [box("roll"), box("roll"), box("roll"), box("tart")] },
  ],
  ["has 2 roll", { objects: [box("roll"), box("roll")] }, { objects: [box("roll"), box("roll"), box("roll")] }],
  ["has ..1 roll", {}, { objects: [box("roll"), box("roll")] }],
  ["has 1..2 any", { objects: [box("a"), box("b")] }, {}],
  [
    'delivery in {"Late shift", Weekend} or objects = 0',
    { delivery: "Late shift", objects: [box("a")] },
    { delivery: "late shift", objects: [box("a")] },
  ],
  ['name like "rack_*"', {}, { name: "racks/tray_01.jpg" }],
  ['name like "RACKS/*"', {}, { name: "rack_01.jpg" }],
  ["name = rack_01.jpg", { name: "rack_01.jpg" }, {}],
  ["taken >= 2026-11-19", { taken: day("2026-11-19T00:00") }, { taken: day("2026-11-18T23:59") }],
  ["taken = 2026-11-19", { taken: day("2026-11-19T23:59:59") }, { taken: day("2026-11-20T00:00") }],
  ["taken > 2026-11-19", { taken: day("2026-11-20T00:00") }, { taken: day("2026-11-19T18:00") }],
  ["taken <= 2026-11-19T14:00", { taken: day("2026-11-19T14:00:30") }, { taken: day("2026-11-19T14:01") }],
  ["taken = 2026-11-01..2026-11-02", { taken: day("2026-11-02T12:00") }, { taken: day("2026-11-03T00:00") }],
  ["not tag = checked", { tags: ["new"] }, { tags: ["new", "checked"] }],
  ["tag != checked", {}, { tags: ["new", "checked"] }],
  ["has any (share < 0.1%)", { objects: [box("a", { area: 19 })] }, { objects: [box("a", { area: 20 })] }],
  [
    "has {roll, loaf} (confidence < 0.5)",
    { objects: [box("loaf", { confidence: 0.4 })] },
    { objects: [box("loaf"), box("tart", { confidence: 0.4 })] },
  ],
  ["near-copies >= 1 and split in {val, test}", { nearCopies: 1, split: "val" }, { nearCopies: 1 }],
  ["shift is unset", {}, { attributes: { shift: "" } }],
  ["Shift is set", { attributes: { shift: "late" } }, {}],
  ["weather = rain", { attributes: { Weather: "rain" } }, { attributes: { Weather: "Rain" } }],
  ["WIDTH = 100..200", { width: 200 }, { width: 201 }],
  ["ratio > 1.5 and megapixels < 1", {}, { width: 100 }],
  ["pinned = yes", { pinned: true }, { pinned: false }],
  ["turned = no", { turned: false }, { turned: true }],
  ['field "split" = odd', { attributes: { split: "odd" } }, { split: "odd" }],
  ["field = 3", { attributes: { field: 3 } }, { attributes: { field: "three" } }],
  ["rating >= 4", { attributes: { rating: "4.5" } }, { attributes: { rating: 3 } }],
  ["rating = 50%", { attributes: { rating: 0.5 } }, { attributes: { rating: 50 } }],
  ["rating = yes", { attributes: { rating: true } }, { attributes: { rating: false } }],
  ["rating in {gold, 5}", { attributes: { rating: ["silver", "gold"] } }, { attributes: { rating: ["silver"] } }],
  [
    'has any ("bake time" = 5..10)',
    { objects: [box("a", { attributes: { "bake time": 7 } })] },
    { objects: [box("a", { attributes: { "bake time": 11 } })] },
  ],
  ["has any (x > 0.5 or y > 0.9)", { objects: [box("a", { x: 90 })] }, { objects: [box("a", { x: 84 })] }],
  [
    "has any (crowd = no, shape in {polygon, mask})",
    { objects: [box("a", { shape: "mask" })] },
    { objects: [box("a", { shape: "mask", crowd: true })] },
  ],
  ["has any (suggested = yes)", { suggestedObjects: [box("a", { suggested: true })] }, { objects: [box("a")] }],
  ["has any (confidence != 0.5)", { objects: [box("a")] }, { objects: [box("a", { confidence: 0.5 })] }],
  ["caption like *fresh*", { captions: ["old", "Fresh bread"] }, { captions: ["stale"] }],
  ["split = none", {}, { split: "val" }],
  ["state != empty or objects = 0 and width = 1", { state: "labeled" }, { state: "empty" }],
  ["not (state = empty or state = labeled)", { state: "unlabeled" }, { state: "labeled" }],
  ['class = "no"', { classes: ["no"] }, { classes: ["yes"] }],
  ["class = no", { classes: ["no"] }, {}],
  ['no "12"', {}, { objects: [box("12")] }],
  ["has café", { objects: [box("café")] }, { objects: [box("Café")] }],
  ["", {}, {}],
];

describe("a selection", () => {
  it.each(worked)("%s", (text, meant, other) => {
    expect(means(text, image(meant))).toBe(true);
    if (text !== "") expect(means(text, image(other))).toBe(false);
  });
  it("finds classes and attributes that are called as properties of every object are", () => {
    const odd = image({ objects: [box("constructor")], attributes: { ["__proto__"]: "x" } });
    expect(means("has constructor", odd)).toBe(true);
    expect(means("has toString", odd)).toBe(false);
    expect(() => understandSelection("constructor = x")).toThrow(/no field/);
  });
});

const errors: [string, number, RegExp, string?][] = [
  ["has roll and splitt = train", 14, /^"splitt" is no field\. Did you mean split\? \(column 14\)$/, "split"],
  ["width = wide", 9, /"wide" is no value for width: it is compared with a number/],
  ["taken = soon", 9, /a date, such as/],
  ["taken = 2026-02-30", 9, /is no value for taken/],
  ["pinned = perhaps", 10, /yes or no/],
  ['width = "5"', 9, /is no value for width/],
  ["width like 5*", 1, /like compares texts/],
  ["split < train", 1, /has no order/],
  ["width = 9..5", 9, /ends before it begins/],
  ["width < 5..9", 9, /not a range/],
  ["name = a..b", 8, /has no ranges/],
  ["has", 4, /ends too early/, "any"],
  ["has 3", 6, /ends too early/, "any"],
  ["has 5..2 roll", 10, /at least 5 and at most 2/],
  ["split train", 7, /"train" cannot stand here/, "="],
  ["split = ", 8, /ends too early/],
  ["split =", 8, /ends too early/],
  ["has roll roll", 10, /cannot stand here/, "and"],
  ["(split = train", 15, /ends too early/, ")"],
  ["split = train)", 14, /cannot stand here/],
  ["split in train", 10, /cannot stand here/, "{"],
  ['name = "open', 8, /quotes that open here/],
  ['name = "a\\n"', 8, /backslash/],
  ["a ! b", 3, /!=/],
  ["has roll (bakee = x)", 11, /"bakee" is no field of an object\. Did you mean bake/, "bake"],
  ["bake = dark", 1, /"bake" is no field/],
  ["split is empty", 10, /cannot stand here/, "set"],
  ["and", 1, /cannot stand here/],
];

describe("an error", () => {
  it.each(errors)("in %s points at column %i", (text, at, message, proposal) => {
    let thrown: unknown;
    try {
      understandSelection(text, attributes);
    } catch (error) {
      thrown = error;
    }
    expect(thrown).toBeInstanceOf(SelectionError);
    const error = thrown as SelectionError;
    expect(error.code).toBe("selection-invalid");
    expect(error.at).toBe(at);
    expect(error.message).toMatch(message);
    if (proposal !== undefined) expect(error.expected).toContain(proposal);
  });
  it("comes soon, however long and deep a text is", () => {
    const began = performance.now();
    expect(() => parseSelection("a".repeat(20_001))).toThrow(/20,000 characters at most/);
    expect(() => parseSelection("(".repeat(20_000))).toThrow(/50 one inside another/);
    expect(() => parseSelection("not ".repeat(5000))).toThrow(/50 one inside another/);
    expect(() => parseSelection(`has any (${"(".repeat(60)}`)).toThrow(/50 one inside another/);
    expect(() => parseSelection(`${"a = b and ".repeat(1900)} or`)).toThrow(/cannot stand here|ends too early/);
    expect(() => parseSelection(`${"(a = b or c = d) and ".repeat(900)} (`)).toThrow(/ends too early/);
    const stars = understandSelection(`name like "${"*a".repeat(2000)}b"`);
    expect(predicateOf(stars)(image({ name: "a".repeat(4000) }))).toBe(false);
    // Two orders of magnitude above what it takes: only a search that runs wild is caught.
    expect(performance.now() - began).toBeLessThan(20_000);
  });
  it("is none for fifty brackets, and for a class or value that nothing has", () => {
    expect(means(`${"(".repeat(50)}split = none${")".repeat(50)}`, image())).toBe(true);
    expect(means("has zeppelin or split = nowhere", image())).toBe(false);
  });
});

const texts = ["train", "no", "a b", 'say "x"', "\\", "3", "6%", "2026-11-19", "x..y", "and", "ÄÖ", "{}", "="];
const vocabulary = {
  texts: { name: texts, split: ["train", "none"], tag: texts, caption: texts, delivery: texts },
  numbers: { objects: [0, 1, 2], width: [100, 200], ratio: [0.5, 2] },
  dates: { taken: ["2026-11-18", "2026-11-19", "2026-11-19T14:00"] },
  truths: ["pinned", "turned"],
  attributes: { shift: ["late", "early", "7"], split: ["odd", "9"], "a b": ["x", "1"] },
};
const objectVocabulary = {
  texts: { shape: ["box", "mask"] },
  numbers: { width: [30, 40], area: [19, 1200], share: [0.06], confidence: [0.4, 0.5] },
  dates: {},
  truths: ["crowd"],
  attributes: { bake: ["dark", "3"] },
};
const selections = randomSelections(vocabulary, objectVocabulary, ["roll", "12", "any", "two words"]);

/** Without places and with quotes only where they change what is meant. */
const plain = (tree: SelectionTree): unknown =>
  JSON.parse(
    JSON.stringify(tree, (key, value: unknown) => (key === "span" || key === "quoted" ? undefined : value)),
  ) as unknown;

describe("text and tree", () => {
  it("of any selection give each other", () => {
    fc.assert(
      fc.property(selections, (tree) => {
        const text = printSelection(tree);
        const again = parseSelection(text);
        expect(plain(again)).toEqual(plain(tree));
        expect(printSelection(again)).toBe(text);
      }),
      { numRuns: 500 },
    );
  });
  it("never fail otherwise than by a selection error, whatever is typed", () => {
    const pieces = fc.constantFrom(
      "has ",
      "no ",
      "any",
      "(",
      ")",
      "{",
      "}",
      ",",
      "..",
      "=",
      "<=",
      "in ",
      "like ",
      "is ",
      "not ",
      "and ",
      "or ",
      "3",
      "x ",
      '"q" ',
      "!",
      "field ",
      "5% ",
    );
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 12 }), (some) => {
        try {
          understandSelection(some.join(""));
        } catch (error) {
          expect(error).toBeInstanceOf(SelectionError);
          expect((error as SelectionError).at).toBeGreaterThan(0);
        }
      }),
      { numRuns: 2000 },
    );
  });
});
