import fc from "fast-check";
import { distance } from "fastest-levenshtein";
import { describe, expect, it } from "vitest";
import { NearNames } from "./near-names";

describe("names a few letters away", () => {
  it("are those that comparing each with each finds", () => {
    const name = fc.string({ unit: fc.constantFrom("a", "b", "c"), maxLength: 12 });
    fc.assert(
      fc.property(fc.array(name, { maxLength: 25 }), name, (names, asked) => {
        const wanted = names.flatMap((other, index) => {
          const letters = distance(asked, other);
          return other !== "" && letters <= 2 ? [{ index, letters }] : [];
        });
        expect(new NearNames(names).near(asked)).toEqual(wanted);
      }),
      { numRuns: 500 },
    );
  });
  it("are found among tens of thousands in no time to speak of", () => {
    const names = Array.from({ length: 20_000 }, (_, n) => `${(n * 7919).toString(36)}thing${(n * 31).toString(36)}`);
    const near = new NearNames(names);
    const found = names.slice(0, 200).map((name) => near.near(`${name}s`).map(({ index }) => index));
    expect(found.every((indexes, n) => indexes.includes(n))).toBe(true);
    // Most of them hold the same letters in the same places; that is given up at some time.
    for (const name of names) near.near(name);
    expect(near.near(names[0] as string)).toEqual([]);
  });
});
