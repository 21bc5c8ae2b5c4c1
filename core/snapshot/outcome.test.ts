import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { tallyClasses } from "../checks/tally";
import { runFlow } from "../plans/flow";
import { planSchema, type Plan } from "../plans/plan";
import { smallSnapshot } from "../tests/small-snapshot";
import { outcomeOf, type Outcome } from "./outcome";
import { planInput, slottedStock } from "./plan-input";
import type { Snapshot } from "./snapshot";

function run(snapshot: Snapshot, plan: Plan): { outcome: Outcome; bands: Record<string, Record<string, number>> } {
  const slotted = slottedStock(snapshot);
  const flow = runFlow(planInput(snapshot, slotted, plan, null), plan);
  const bands = flow.steps.find(({ step }) => step === "split")?.bands ?? [];
  return {
    outcome: outcomeOf(snapshot, slotted, flow),
    bands: Object.fromEntries(bands.flatMap(({ split, byClass }) => (split ? [[split, byClass]] : []))),
  };
}

/** The objects of an outcome, an image a line: its split, its image-level classes, then class and attributes of each. */
function written({ snapshot, slots }: Outcome): string[] {
  const nameOf = (id: number) => snapshot.classes.find((one) => one.id === id)?.name ?? `class ${id}`;
  return Array.from(slots, (slot) => {
    const set = snapshot.classSet.at(slot);
    const whole = set === 0 ? [] : snapshot.classesIn(set).map(nameOf);
    const first = snapshot.firstObject.at(slot);
    const objects = Array.from({ length: snapshot.objectCount.at(slot) }, (_, n) => {
      const code = snapshot.attributes.at(first + n);
      const said = code === 0 ? "" : JSON.stringify(snapshot.attributesIn(code));
      return `${nameOf(snapshot.classIds[snapshot.objectClass.at(first + n)] ?? 0)}${said}@${snapshot.x.at(first + n)}`;
    });
    return [snapshot.names[slot], ["none", "train", "val", "test"][snapshot.split.at(slot)], ...whole, ...objects].join(
      " ",
    );
  });
}

const keep = { split: { mode: "keep" as const, stand: "all" as const } };
const at = (of: string, x: number, attributes?: Record<string, string>) => ({
  ...{ of, box: [x, 0, 10, 10] as const },
  ...(attributes ? { attributes } : {}),
});

describe("the outcome of a plan", () => {
  const stock = smallSnapshot(
    ["roll", "Roll", "tart", "night"],
    [
      { split: "train", objects: [at("roll", 1), at("tart", 2), at("Roll", 3, { bake: "dark" })] },
      { split: "val", objects: [at("tart", 4)], nearCopies: [1] },
      { split: null, objects: [at("roll", 5)] },
      { split: "test", objects: [at("roll", 6)], classes: ["night"] },
    ],
  );
  it("has the splits, names and objects that the plan gives, worked out by hand", () => {
    const plan = planSchema.parse({ ...keep, relabel: { rename: { Roll: "roll" }, leaveOut: ["tart"] } });
    const { outcome } = run(stock, plan);
    expect(written(outcome)).toEqual([
      '1.jpg train roll@1 roll{"bake":"dark"}@3',
      "2.jpg val",
      "4.jpg test night roll@6",
    ]);
    expect(outcome.snapshot.classes.map(({ id, name }) => [id, name])).toEqual([
      [1, "roll"],
      [4, "night"],
    ]);
    // What lost all its labels is empty now, and copies are known still.
    expect(Array.from(outcome.slots, (slot) => outcome.snapshot.state.at(slot))).toEqual([2, 1, 2]);
    expect(outcome.snapshot.nearCopiesIn(1)).toEqual([0]);
  });
  it("makes classes of attributes and attributes of classes", () => {
    const split = planSchema.parse({ ...keep, relabel: { splitBy: [{ attribute: "bake" }] } });
    expect(written(run(stock, split).outcome)[0]).toBe('1.jpg train roll@1 tart@2 Roll-dark{"bake":"dark"}@3');
    const join = planSchema.parse({
      ...keep,
      relabel: { join: [{ classes: ["roll", "tart"], into: "bun", attribute: "form", values: ["round", "flat"] }] },
    });
    const { outcome } = run(stock, join);
    expect(written(outcome)[0]).toBe('1.jpg train bun{"form":"round"}@1 bun{"form":"flat"}@2 Roll{"bake":"dark"}@3');
    expect(outcome.snapshot.classes.map(({ name }) => name)).toEqual(["bun", "Roll", "night"]);
    const whole = planSchema.parse({ ...keep, relabel: { shapes: "image-classes", keep: ["roll"] } });
    expect(written(run(stock, whole).outcome)).toEqual(["1.jpg train roll", "2.jpg val", "4.jpg test roll"]);
  });
  it("leaves the stock as it was", () => {
    const before = written({ snapshot: stock, slots: Uint32Array.of(0, 1, 2, 3) });
    run(
      stock,
      planSchema.parse({ relabel: { rename: { roll: "bun" }, leaveOut: ["tart"] }, split: { stand: "none" } }),
    );
    expect(written({ snapshot: stock, slots: Uint32Array.of(0, 1, 2, 3) })).toEqual(before);
    expect(stock.attributeNames()).toEqual(new Set(["bake"]));
  });
  it("holds what the flow counts, whatever the plan renames, drops and deals", () => {
    const names = ["a", "b", "c"];
    const className = fc.constantFrom(...names);
    const images = fc.array(
      fc.record({
        split: fc.constantFrom("train" as const, "val" as const, "test" as const, null),
        objects: fc.array(fc.record({ of: className, attributes: fc.constantFrom({ kind: "x" }, { kind: "y" }) }), {
          maxLength: 4,
        }),
        classes: fc.uniqueArray(className, { maxLength: 2 }),
      }),
      { minLength: 4, maxLength: 12 },
    );
    const relabel = fc.record({
      rename: fc.dictionary(className, fc.constantFrom("a", "d")),
      leaveOut: fc.uniqueArray(className, { maxLength: 1 }),
      splitBy: fc.constantFrom([], [{ attribute: "kind" }]),
      shapes: fc.constantFrom("as-they-are", "image-classes"),
      emptied: fc.constantFrom("keep", "leave-out"),
    });
    fc.assert(
      fc.property(images, relabel, (list, relabels) => {
        const states = list.map((one) => ({
          ...one,
          state: one.objects.length + one.classes.length > 0 ? "labeled" : "empty",
        }));
        const snapshot = smallSnapshot(names, states as typeof list);
        const plan = planSchema.parse({ relabel: relabels, split: { stand: "none", ratio: { train: 1, val: 1 } } });
        const { outcome, bands } = run(snapshot, plan);
        const tallies = tallyClasses(outcome.snapshot, outcome.slots);
        for (const split of ["train", "val"] as const)
          expect(
            Object.fromEntries(
              tallies.flatMap(({ name, bySplit }) => (bySplit[split] > 0 ? [[name, bySplit[split]]] : [])),
            ),
          ).toEqual(bands[split] ?? {});
      }),
      { numRuns: 200 },
    );
  });
});
