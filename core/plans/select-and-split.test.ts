import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { splitNames, type Split } from "../model/item";
import { lightStock, type StockRow } from "../stock/light-stock";
import type { StockFacts } from "../stock/stock-facts";
import { flowOn } from "../tests/plan-flow";
import { planSchema } from "./plan";

const key = (n: number) => `k${String(n).padStart(4, "0")}`;
const row = (n: number, classes: string[], more: Partial<StockRow> = {}): StockRow => ({
  key: key(n),
  delivery: 1,
  split: null,
  state: classes.length > 0 ? "labeled" : "empty",
  objects: new Map(classes.map((name) => [name, 1])),
  classes: [],
  ...more,
});
const stock = (rows: StockRow[]) => lightStock(rows);
/** Rolls on all, loaves on every third, a tart on two. */
const many = Array.from({ length: 60 }, (_, n) =>
  row(n, ["roll", ...(n % 3 === 0 ? ["loaf"] : []), ...(n === 7 || n === 8 ? ["tart"] : [])]),
);
const facts = (more: Partial<StockFacts>): StockFacts => ({
  name: (n) => `${key(n)}.jpg`,
  size: () => ({ width: 10, height: 10 }),
  taken: () => Number.NaN,
  camera: () => "",
  attribute: () => null,
  nearCopies: () => [],
  ...more,
});
const imagesAt = (flow: ReturnType<typeof flowOn>, step: string) =>
  flow.steps.find((entry) => entry.step === step)?.bands.reduce((sum, { images }) => sum + images, 0);
const reasons = (flow: ReturnType<typeof flowOn>) => [...flow.left.values()].map(({ reason }) => reason);

describe("select", () => {
  it("drops the labels of classes under the floor, and with them what is only theirs", () => {
    const rows = [...many, row(60, ["tart"])];
    const flow = flowOn(stock(rows), planSchema.parse({ select: { floor: 10 } }));
    expect([...flow.dropped]).toEqual(["tart"]);
    expect(flow.classes).toEqual(["roll", "loaf"]);
    expect(flow.steps[1]?.bands[0]?.objects).toBe(80);
    expect(imagesAt(flow, "relabel")).toBe(61);
    const without = flowOn(stock(rows), planSchema.parse({ select: { floor: 10 }, relabel: { emptied: "leave-out" } }));
    expect(imagesAt(without, "relabel")).toBe(60);
    expect(reasons(without)).toEqual(["emptied: it loses all its labels"]);
  });
  it("caps a class: no image with it beyond its number, and says so of those that leave", () => {
    const flow = flowOn(stock(many), planSchema.parse({ select: { cap: { images: 5, classes: ["loaf"] } } }));
    expect(flow.steps[1]?.bands[0]?.byClass).toMatchObject({ loaf: 5, roll: 45 });
    expect(new Set(reasons(flow))).toEqual(new Set(["cap: loaf has its 5 images already"]));
    const every = flowOn(stock(many), planSchema.parse({ select: { cap: { images: 12 } } }));
    expect(every.steps[1]?.bands[0]?.byClass["roll"]).toBe(12);
  });
  it("samples as many as asked, spread over the classes, the same again by the same seed", () => {
    const sample = (seed: number) => flowOn(stock(many), planSchema.parse({ seed, select: { sample: 30 } }));
    const flow = sample(1);
    expect(imagesAt(flow, "select")).toBe(30);
    expect(flow.steps[1]?.bands[0]?.byClass).toEqual({ roll: 30, loaf: 10, tart: 1 });
    const keys = (seed: number) => [...sample(seed).assigned.keys()];
    expect(keys(1)).toEqual(keys(1));
    expect(keys(1)).not.toEqual(keys(2));
  });
  it("does not depend on the order of the images", () => {
    const plan = planSchema.parse({ seed: 9, select: { cap: { images: 20 }, sample: 15 } });
    const wanted = flowOn(stock(many), plan).assigned;
    fc.assert(
      fc.property(fc.shuffledSubarray(many, { minLength: many.length }), (shuffled) => {
        const assigned = flowOn(stock(shuffled), plan).assigned;
        expect([...assigned].sort()).toEqual([...wanted].sort());
      }),
      { numRuns: 20 },
    );
  });
});

describe("split", () => {
  const splitsOf = (split: object, more: Partial<StockFacts> = {}, rows = many) =>
    flowOn(stock(rows), planSchema.parse({ split }), { facts: facts(more) });
  const counts = (flow: ReturnType<typeof flowOn>) => {
    const out: Record<Split, number> = { train: 0, val: 0, test: 0 };
    for (const split of flow.assigned.values()) out[split]++;
    return out;
  };
  it("by counts leaves the rest to train, and refuses more than there is", () => {
    expect(counts(splitsOf({ mode: "counts", counts: { val: 10, test: 5 } }))).toEqual({ train: 45, val: 10, test: 5 });
    expect(() => splitsOf({ mode: "counts", counts: { val: 50, test: 50 } })).toThrow(
      /ask for 100 images, and only 60/,
    );
  });
  it("in folds is disjoint, covers everything, and each fold has its share of every class", () => {
    const folds = Array.from({ length: 5 }, (_, fold) => splitsOf({ mode: "folds", folds: { of: 5, this: fold } }));
    const vals = folds.map(({ assigned }) =>
      [...assigned].filter(([, split]) => split === "val").map(([name]) => name),
    );
    expect(vals.map((names) => names.length)).toEqual([12, 12, 12, 12, 12]);
    expect(new Set(vals.flat()).size).toBe(60);
    for (const { steps } of folds)
      expect(
        steps.find(({ step }) => step === "split")?.bands.find(({ split }) => split === "val")?.byClass["loaf"],
      ).toBe(4);
  });
  it("by date goes by the day; what has none is train", () => {
    const taken = (n: number) => (n === 0 ? Number.NaN : Date.parse("2026-10-01") + n * 86_400_000);
    const dates = { val: "2026-10-31", test: "2026-11-20" };
    // Day 30 after the first of October is the 31st, day 50 the 20th of November.
    expect(counts(splitsOf({ mode: "by-date", dates }, { taken }))).toEqual({ train: 30, val: 20, test: 10 });
  });
  it("tears no group, whatever holds it together", () => {
    const bonds: [object | string, Partial<StockFacts>][] = [
      [{ name: "^k(\\d{3})" }, {}],
      ["day", { taken: (n) => Date.parse("2026-10-01") + Math.floor(n / 4) * 86_400_000 }],
      ["camera", { camera: (n) => `camera ${n % 7}` }],
      [{ attribute: "tray" }, { attribute: (n) => `tray ${n % 9}` }],
      ["near-copies", { nearCopies: (n) => (n % 2 === 0 ? [n + 1] : []) }],
    ];
    for (const [bond, more] of bonds) {
      const flow = splitsOf({ together: [bond] }, more);
      expect(flow.together?.torn, JSON.stringify(bond)).toBe(0);
      expect(flow.together?.groups).toBeGreaterThan(3);
      expect(flow.emptySplits).toEqual([]);
      const got = counts(flow);
      // Groups of up to nine images: sizes are within one of them.
      for (const split of splitNames)
        expect(Math.abs(got[split] - (flow.targets?.[split] ?? 0))).toBeLessThanOrEqual(9);
    }
  });
  it("keeps an earlier version's splits and deals only newcomers", () => {
    const before = flowOn(stock(many), planSchema.parse({ seed: 1 })).assigned;
    const rows = [...many, ...Array.from({ length: 20 }, (_, n) => row(100 + n, ["roll"]))];
    const flow = flowOn(stock(rows), planSchema.parse({ seed: 5, split: { like: 1 } }), { like: before });
    for (const [name, split] of before) expect(flow.assigned.get(name)).toBe(split);
    expect(flow.assigned.size).toBe(80);
  });
  it("holds groups together with images whose split stands, and counts those that are torn by it", () => {
    const rows = many.map((entry, n) => ({
      ...entry,
      split: n === 0 ? ("val" as const) : n === 5 ? ("test" as const) : null,
    }));
    const flow = flowOn(stock(rows), planSchema.parse({ split: { stand: "all", together: [{ name: "^(k000)" }] } }), {
      facts: facts({}),
    });
    const first = Array.from({ length: 10 }, (_, n) => flow.assigned.get(key(n)));
    expect(first.filter((split) => split === "val" || split === "test")).toHaveLength(10);
    expect(flow.together?.torn).toBe(1);
  });
  it("is never silently empty with as many images as splits, and within one of its share", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 90 }),
        fc.tuple(fc.integer({ min: 1, max: 98 }), fc.integer({ min: 1, max: 98 }), fc.integer({ min: 1, max: 98 })),
        fc.boolean(),
        (images, [train, val, test], evenly) => {
          const flow = splitsOf({ ratio: { train, val, test }, evenly }, {}, many.slice(0, Math.min(images, 60)));
          expect(flow.emptySplits).toEqual([]);
          const all = flow.assigned.size;
          const got = counts(flow);
          const sum = train + val + test;
          for (const [split, share] of [
            ["train", train],
            ["val", val],
            ["test", test],
          ] as const) {
            const exact = (share / sum) * all;
            expect(Math.abs(got[split] - exact)).toBeLessThan(exact < 1 || all < 6 ? 2 : 2);
            expect(got[split]).toBeGreaterThan(0);
          }
        },
      ),
    );
  });
  it("stratifies no worse than random dealing", () => {
    const error = (evenly: boolean, seed: number) => {
      const flow = flowOn(stock(many), planSchema.parse({ seed, split: { evenly } }));
      const bands = flow.steps.find(({ step }) => step === "split")?.bands ?? [];
      return bands.reduce((sum, { byClass, images }) => sum + Math.abs((byClass["loaf"] ?? 0) - images / 3), 0);
    };
    for (let seed = 0; seed < 20; seed++) expect(error(true, seed)).toBeLessThanOrEqual(error(false, seed) + 1e-9);
  });
});

describe("rare", () => {
  it("repeats images of rare classes by the square root of their lack, at most as often as said", () => {
    const plan = (rare: object) => planSchema.parse({ split: { ratio: { train: 1 } }, augment: { rare } });
    // Tart is on 2 of 60: sqrt(0.30 / 0.0333) = 3. Loaf on 20 of 60 and roll on all are not rare.
    const { repeats, steps } = flowOn(stock(many), plan({ share: "30%", most: 4 }));
    expect([...repeats]).toEqual([
      [key(7), 3],
      [key(8), 3],
    ]);
    expect(steps.at(-1)?.bands[0]?.images).toBe(64);
    expect([...flowOn(stock(many), plan({ share: "30%", most: 2 })).repeats.values()]).toEqual([2, 2]);
  });
  it("rounds by a draw: on the whole as often as the factor says", () => {
    const rows = Array.from({ length: 2000 }, (_, n) => row(n, n < 400 ? ["rare"] : ["roll"]));
    const plan = planSchema.parse({ split: { ratio: { train: 1 } }, augment: { rare: { share: "40%" } } });
    // sqrt(0.4 / 0.2) = 1.414: 41% of 400 twice.
    const twice = [...flowOn(stock(rows), plan).repeats.values()].filter((times) => times === 2).length;
    expect(twice).toBeGreaterThan(130);
    expect(twice).toBeLessThan(200);
  });
});
