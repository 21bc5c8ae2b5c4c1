import { describe, expect, it } from "vitest";
import { allChoices, initialChoices } from "./choices";
import { deliveryFactsSchema, factLines, noFacts } from "./facts";
import { wordBoxes } from "./page-words";

describe("choices", () => {
  it("are complete whatever was stored, and refuse what does not fit", () => {
    expect(allChoices(null)).toEqual(initialChoices);
    expect(allChoices({ sameBytes: "add" })).toEqual({ ...initialChoices, sameBytes: "add" });
    expect(() => allChoices({ splits: { mode: "deal", ratio: { train: 0, val: 0, test: 0 }, seed: 1 } })).toThrow(
      /above 0/,
    );
    expect(() => allChoices({ pageResolution: 4000 })).toThrow(/600/);
  });
});

describe("facts", () => {
  it("take dates and decimal degrees, and refuse others", () => {
    expect(deliveryFactsSchema.parse({ takenFrom: "2026-11-19", latitude: -33.86 })).toMatchObject({
      takenFrom: "2026-11-19",
      latitude: -33.86,
      longitude: null,
    });
    for (const bad of [
      { takenFrom: "19.11.2026" },
      { latitude: 91 },
      { longitude: -181 },
      { licence: "x".repeat(201) },
    ])
      expect(deliveryFactsSchema.safeParse(bad).success).toBe(false);
  });
  it("become lines of what is known only", () => {
    expect(factLines("Late shift", 1, noFacts)).toEqual(["Late shift: 1 image"]);
    expect(
      factLines("Early", 1200, {
        ...noFacts,
        licence: "CC0 1.0",
        takenFrom: "2026-11-01",
        takenTo: "2026-11-02",
        latitude: 47,
        longitude: 8.5,
        notes: "two\n lines",
      }),
    ).toEqual([
      "Early: 1,200 images",
      "  licence: CC0 1.0",
      "  taken: 2026-11-01 to 2026-11-02",
      "  place: 47, 8.5",
      "  notes: two lines",
    ]);
  });
});

describe("wordBoxes", () => {
  const run = (text: string, transform: number[], width: number) => ({
    text,
    width,
    transform,
    ascent: 0.8,
    descent: -0.2,
  });
  // A page of 100 × 100 units whose y grows upwards, shown at two pixels a unit.
  const toPixels = [2, 0, 0, -2, 0, 200];
  const size = { width: 200, height: 200 };

  it("shares a run among its words by their signs, by hand", () => {
    // Four signs of one width and two spaces of 2/3 of it: "ab" 0…6 of 16, the gap 6…10, "cd" 10…16.
    const words = wordBoxes([run("ab  cd", [10, 0, 0, 10, 20, 50], 32)], toPixels, size);
    expect(words.map(({ attributes, shape }) => [attributes?.["text"], shape])).toEqual([
      ["ab", { kind: "box", x: 40, y: 84, width: 24, height: 20 }],
      ["cd", { kind: "box", x: 80, y: 84, width: 24, height: 20 }],
    ]);
  });
  it("follows text that runs upwards, cuts at the page's edge, and leaves out what lies outside", () => {
    const [up] = wordBoxes([run("up", [0, 10, -10, 0, 50, 20], 30)], toPixels, size);
    // Its foot is at x = 50, it rises from y = 20 to 50; ascent goes left.
    expect(up?.shape).toEqual({ kind: "box", x: 84, y: 100, width: 20, height: 60 });
    const [cut] = wordBoxes([run("cut", [10, 0, 0, 10, 90, 50], 40)], toPixels, size);
    expect(cut?.shape).toMatchObject({ x: 180, width: 20 });
    expect(
      wordBoxes(
        [
          run("out", [10, 0, 0, 10, 120, 50], 40),
          run("   ", [10, 0, 0, 10, 0, 0], 9),
          run("flat", [0, 0, 0, 0, 5, 5], 9),
        ],
        toPixels,
        size,
      ),
    ).toEqual([]);
  });
});
