import { describe, expect, it } from "vitest";
import { lightStock, type StockRow } from "../stock/light-stock";
import { flowOn } from "../tests/plan-flow";
import { outputsOn, plannedImage } from "../tests/planned-image";
import { planSchema } from "./plan";

const row = (n: number, more: Partial<StockRow> = {}): StockRow => ({
  key: `k${String(n).padStart(3, "0")}`,
  delivery: 1,
  split: null,
  state: "labeled",
  objects: new Map([
    ["roll", 2],
    ["tart", 1],
  ]),
  classes: [],
  ...more,
});
const rows = [
  ...Array.from({ length: 20 }, (_, i) => row(i)),
  row(20, { objects: new Map([["tart", 3]]) }),
  row(21, { state: "empty", objects: new Map() }),
  row(22, { state: "unlabeled", objects: new Map() }),
  row(23, { delivery: 2, split: "val" }),
];
const stock = lightStock(rows);

const numbers = (flow: ReturnType<typeof flowOn>, step: string) =>
  flow.steps.find((entry) => entry.step === step)?.bands.map((band) => [band.split, band.images, band.objects]);

describe("runFlow", () => {
  it("counts in and out of every step, by hand", () => {
    const flow = flowOn(
      stock,
      planSchema.parse({
        relabel: { leaveOut: ["tart"] },
        augment: { copies: 2, do: [{ op: "flip-sideways", chance: 0.5 }] },
      }),
    );
    expect(numbers(flow, "stock")).toEqual([[null, 24, 66]]);
    expect(numbers(flow, "select")).toEqual([[null, 23, 66]]);
    expect(numbers(flow, "relabel")).toEqual([[null, 23, 42]]);
    // 23 × 0.7 = 16.1, 4.6, 2.3: 16, 5, 2.
    expect(numbers(flow, "split")?.map(([, images]) => images)).toEqual([16, 5, 2]);
    const objects = numbers(flow, "split")?.map(([, , count]) => count as number) ?? [];
    expect(objects.reduce((a, b) => a + b, 0)).toBe(42);
    expect(numbers(flow, "pack")).toEqual([
      ["train", 48, (objects[0] as number) * 3],
      ["val", 5, objects[1]],
      ["test", 2, objects[2]],
    ]);
  });
  it("leaves images out that lose everything, where asked, and merges renamed classes", () => {
    const flow = flowOn(
      stock,
      planSchema.parse({ relabel: { leaveOut: ["tart"], emptied: "leave-out", rename: { roll: "bread" } } }),
    );
    expect(numbers(flow, "relabel")).toEqual([[null, 22, 42]]);
    expect(flow.steps[2]?.bands[0]?.byClass).toEqual({ bread: 42 });
    const merged = flowOn(stock, planSchema.parse({ relabel: { rename: { roll: "tart" } } }));
    expect(merged.steps[2]?.bands[0]?.byClass).toEqual({ tart: 66 });
  });
  it("keeps splits as they stand, and selects by delivery", () => {
    expect(numbers(flowOn(stock, planSchema.parse({ split: { mode: "keep" } })), "split")).toEqual([["val", 1, 3]]);
    expect(numbers(flowOn(stock, planSchema.parse({ select: { where: "split = val" } })), "select")).toEqual([
      [null, 1, 3],
    ]);
  });
  it("keeps the splits that stand, deals the rest, and says which it keeps", () => {
    const standing = lightStock([
      ...Array.from({ length: 10 }, (_, i) => row(i)),
      ...Array.from({ length: 6 }, (_, i) => row(10 + i, { split: "val", pinned: i < 2 })),
    ]);
    const of = (stand: string) =>
      flowOn(standing, planSchema.parse({ split: { stand, ratio: { train: 8, val: 1, test: 1 } } }));
    expect(of("all").kept).toEqual({ train: 0, val: 6, test: 0 });
    expect(numbers(of("all"), "split")?.map(([split, images]) => [split, images])).toEqual([
      ["train", 8],
      ["val", 7],
      ["test", 1],
    ]);
    expect(of("pinned").kept.val).toBe(2);
    // Of 14 that are dealt 11.2, 1.4 and 1.4, beside the two that are pinned.
    expect(numbers(of("pinned"), "split")?.map(([, images]) => images)).toEqual([11, 4, 1]);
    expect(of("none").kept.val).toBe(0);
    const newcomer = lightStock([row(1, { split: "train" }), row(2, { split: "val" }), row(3)]);
    const one = flowOn(
      newcomer,
      planSchema.parse({ split: { stand: "all", ratio: { train: 80, val: 10, test: 10 } } }),
    );
    expect([one.emptySplits, one.assigned.get("k003")]).toEqual([[], "test"]);
    const dealt = lightStock([row(1, { split: "train" }), row(2, { split: "val" })]);
    expect(flowOn(dealt, planSchema.parse({ split: { stand: "all" } })).emptySplits).toEqual([]);
  });
  it("counts copies that nothing changed, and leaves them out where asked, as the outputs have it", async () => {
    const train = lightStock(Array.from({ length: 40 }, (_, i) => row(i)));
    const planned = (augment: object) =>
      planSchema.parse({ split: { ratio: { train: 1, val: 0, test: 0 } }, augment: { copies: 3, ...augment } });
    expect(flowOn(train, planned({ do: [] })).unchanged).toBe(120);
    expect(flowOn(train, planned({ do: [{ op: "flip-sideways" }] })).unchanged).toBe(0);
    const half = planned({ do: [{ op: "flip-sideways", chance: 0.5 }], unchanged: "leave-out" });
    const { unchanged, steps } = flowOn(train, half);
    expect(unchanged).toBeGreaterThan(40);
    expect(unchanged).toBeLessThan(80);
    const made = await Promise.all(train.keys.map((key) => outputsOn(plannedImage({ key }), half)));
    expect(steps.at(-1)?.bands[0]?.images).toBe(160 - unchanged);
    expect(made.flat()).toHaveLength(160 - unchanged);
  });
  it("says which split would be empty", () => {
    expect(flowOn(lightStock(rows.slice(0, 2)), planSchema.parse({})).emptySplits).toEqual(["test"]);
    expect(flowOn(lightStock(rows.slice(0, 3)), planSchema.parse({})).emptySplits).toEqual([]);
  });
});
