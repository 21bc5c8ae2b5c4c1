import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readClassNames } from "./class-names-file";
import { proposeMatches } from "./propose";

const reasons = (incoming: string[], existing: string[]) =>
  proposeMatches(incoming, existing).map(({ to, reason, letters }) => [to, reason, letters]);

describe("proposeMatches", () => {
  it("tells the same, other case, other signs, plurals and slips of the pen apart", () => {
    expect(
      reasons(
        ["croissant", "Croissant", "bread-roll", "pretzels", "croisant", "crossaint", "hand"],
        ["croissant", "bread roll", "pretzel"],
      ),
    ).toEqual([
      ["croissant", "same", 0],
      ["croissant", "case", 0],
      ["bread roll", "spelling", 0],
      ["pretzel", "plural", 0],
      ["croissant", "letters", 1],
      ["croissant", "letters", 2],
      [null, "new", 0],
    ]);
  });
  it("never takes short names, or names that differ by number, for one", () => {
    expect(reasons(["cat", "type 1", "rack12", "car"], ["car", "type 2", "rack 13"])).toEqual([
      [null, "new", 0],
      [null, "new", 0],
      [null, "new", 0],
      ["car", "same", 0],
    ]);
    expect(reasons(["?!", "--"], ["..."])).toEqual([
      [null, "new", 0],
      [null, "new", 0],
    ]);
  });
  it("takes the nearest, and the earlier of two as near", () => {
    expect(reasons(["baguettte"], ["baguett", "baguette", "baguettt"])).toEqual([["baguette", "letters", 1]]);
    expect(reasons(["Roll"], ["ROLL", "roll"])).toEqual([["ROLL", "case", 0]]);
  });
  it("finds every existing name again, and proposes only what exists", () => {
    const name = fc.string({ minLength: 1, maxLength: 14 });
    fc.assert(
      fc.property(fc.array(name), fc.array(name), (incoming, existing) => {
        const proposals = proposeMatches(incoming, existing);
        expect(proposals.map((proposal) => proposal.name)).toEqual(incoming);
        for (const { name: incoming, to, reason } of proposals) {
          if (existing.includes(incoming)) expect([to, reason]).toEqual([incoming, "same"]);
          if (to !== null) expect(existing).toContain(to);
          expect(to === null).toBe(reason === "new");
        }
      }),
    );
  });
});

describe("readClassNames", () => {
  it("reads a text with one name a line, keeping each line's number", () => {
    expect(readClassNames("\uFEFFloaf\r\nroll \r\n\r\ntart\r\nroll\r\n\r\n", "classes.txt")).toEqual([
      "loaf",
      "roll",
      "",
      "tart",
      "roll",
    ]);
  });
  it("reads a CSV by its column, whatever it is called, or by its first", () => {
    expect(readClassNames('id,name,colour\n1,loaf,red\n2,"roll, small",blue\n', "x.csv")).toEqual([
      "loaf",
      "roll, small",
    ]);
    expect(readClassNames("loaf;1\nroll;2\n", "x.csv")).toEqual(["loaf", "roll"]);
    expect(readClassNames("1\tLabel\n2\ttart\n", "x.tsv")).toEqual(["tart"]);
  });
});
