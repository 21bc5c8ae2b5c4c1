/** Steps: each taken back by its inverse, lists taken back in reverse, steps in different places in either order. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { labelStates, objectFlags, splitNames } from "../model/item";
import type { Shape } from "../model/shape";
import { applyStep, applySteps, invertStep, stateStep } from "./apply";
import { stepsText, stepText } from "./describe";
import { addSteps, replaceSteps } from "./difference";
import { noLabels, type Labels, type StockObject, type Suggestion } from "./labels";
import { collide, stepSchema, type Step } from "./step";
import { packStep, storedStepsSchema } from "./stored-step";

const uid = (n: number) => `01900000-0000-7000-8000-${String(n).padStart(12, "0")}`;
const number = fc.double({ min: -100, max: 5000, noNaN: true, noDefaultInfinity: true }).map((x) => (x === 0 ? 0 : x));
// Names that are properties of every object must be names like any other.
const name = fc.constantFrom("bake", "topping", "constructor", "__proto__", "toString");
const value = fc.oneof(fc.string(), number, fc.boolean(), fc.array(fc.string(), { maxLength: 2 }));

const shape: fc.Arbitrary<Shape> = fc.oneof(
  fc.record({ kind: fc.constant("box" as const), x: number, y: number, width: number, height: number }),
  fc.record({
    kind: fc.constant("rotated-box" as const),
    cx: number,
    cy: number,
    width: number,
    height: number,
    angle: number,
  }),
  fc.record({
    kind: fc.constant("polygon" as const),
    parts: fc.array(fc.array(fc.array(number, { maxLength: 8 }), { maxLength: 2 }), { maxLength: 2 }),
  }),
  fc.record({
    kind: fc.constant("mask" as const),
    width: fc.nat(2000),
    height: fc.nat(2000),
    counts: fc.array(fc.nat(100_000), { maxLength: 12 }),
  }),
  fc.record({
    kind: fc.constant("keypoints" as const),
    points: fc.array(fc.record({ x: number, y: number, v: fc.constantFrom(0 as const, 1 as const, 2 as const) }), {
      maxLength: 4,
    }),
  }),
  fc.record({ kind: fc.constant("line" as const), points: fc.array(number, { maxLength: 6 }) }),
);

const object = (n: number): fc.Arbitrary<StockObject> =>
  fc
    .record({
      class: fc.integer({ min: 1, max: 5 }),
      shape,
      order: fc.nat(5),
      crowd: fc.option(fc.boolean(), { nil: undefined }),
      confidence: fc.option(fc.double({ min: 0, max: 1, noNaN: true }), { nil: undefined }),
      attribute: fc.option(fc.tuple(name, value), { nil: undefined }),
    })
    .map(({ attribute, crowd, confidence, ...rest }) => ({
      uid: uid(n),
      ...rest,
      ...(crowd === undefined ? {} : { crowd }),
      ...(confidence === undefined ? {} : { confidence }),
      ...(attribute ? { attributes: Object.fromEntries([attribute]) } : {}),
    }));

const suggestion = (n: number): fc.Arbitrary<Suggestion> =>
  fc.record({
    uid: fc.constant(uid(100 + n)),
    run: fc.constant("run 1"),
    class: fc.integer({ min: 1, max: 5 }),
    confidence: fc.double({ min: 0, max: 1, noNaN: true }),
    shape,
  });

const sorted = (objects: StockObject[]) => objects.sort((a, b) => a.order - b.order || (a.uid < b.uid ? -1 : 1));

const labels: fc.Arbitrary<Labels> = fc.record({
  objects: fc
    .tuple(...[1, 2, 3].map((n) => fc.option(object(n), { nil: undefined })))
    .map((all) => sorted(all.filter((one) => one !== undefined))),
  classes: fc.uniqueArray(fc.integer({ min: 1, max: 5 })).map((ids) => ids.sort((a, b) => a - b)),
  captions: fc.array(fc.string(), { maxLength: 2 }),
  fields: fc.array(fc.tuple(name, fc.string()), { maxLength: 2 }).map((entries) => Object.fromEntries(entries)),
  attributes: fc.array(fc.tuple(name, value), { maxLength: 2 }).map((entries) => Object.fromEntries(entries)),
  state: fc.constantFrom(...labelStates),
  split: fc.option(fc.constantFrom(...splitNames)),
  pinned: fc.boolean(),
  tags: fc.uniqueArray(fc.constantFrom("checked", "blurred", "night")).map((tags) => tags.sort()),
  suggestions: fc
    .tuple(fc.option(suggestion(1)), fc.option(suggestion(2)))
    .map((all) => all.filter((one) => one !== null)),
  present: fc.boolean(),
});

const anyUid = fc.constantFrom(uid(1), uid(2), uid(3));
const anyClass = fc.integer({ min: 1, max: 5 });
const step: fc.Arbitrary<Step> = fc.oneof(
  fc
    .integer({ min: 1, max: 4 })
    .chain((n) => object(n))
    .map((added): Step => ({ do: "add-object", object: added })),
  anyUid.map((one): Step => ({ do: "remove-object", uid: one })),
  fc.record({ do: fc.constant("set-shape" as const), uid: anyUid, shape }),
  fc.record({ do: fc.constant("set-class" as const), uid: anyUid, class: anyClass }),
  fc.record({ do: fc.constant("set-attribute" as const), uid: anyUid, name, value: fc.option(value) }),
  fc.record({
    do: fc.constant("set-flag" as const),
    uid: anyUid,
    flag: fc.constantFrom(...objectFlags),
    value: fc.option(fc.boolean()),
  }),
  fc.record({ do: fc.constant("order-object" as const), uid: anyUid, order: fc.nat(5) }),
  fc.uniqueArray(anyUid, { minLength: 1 }).map((uids): Step => ({
    do: "group-objects",
    groups: Object.fromEntries(uids.map((one, at) => [one, at % 2 === 0 ? uid(50) : null])),
  })),
  anyClass.map((id): Step => ({ do: "add-class", class: id })),
  anyClass.map((id): Step => ({ do: "remove-class", class: id })),
  fc.array(fc.string(), { maxLength: 2 }).map((captions): Step => ({ do: "set-caption", captions })),
  fc.record({ do: fc.constant("set-field" as const), name, value: fc.option(fc.string()) }),
  fc.record({ do: fc.constant("set-image-attribute" as const), name, value: fc.option(value) }),
  fc.constantFrom(...labelStates).map((state): Step => ({ do: "set-state", state })),
  fc.option(fc.constantFrom(...splitNames)).map((split): Step => ({ do: "set-split", split })),
  fc.boolean().map((pinned): Step => ({ do: "pin", pinned })),
  fc.constantFrom("checked", "blurred", "new").map((tag): Step => ({ do: "add-tag", tag })),
  fc.constantFrom("checked", "blurred", "new").map((tag): Step => ({ do: "remove-tag", tag })),
  fc.boolean().map((present): Step => ({ do: "set-presence", present })),
  suggestion(3).map((one): Step => ({ do: "add-suggestion", suggestion: one })),
  fc.constantFrom(uid(101), uid(102)).map((one): Step => ({ do: "remove-suggestion", uid: one })),
  fc.record({
    do: fc.constant("answer-suggestion" as const),
    uid: fc.constantFrom(uid(101), uid(102)),
    answer: fc.option(fc.constantFrom("taken" as const, "refused" as const)),
  }),
);

/** The labels after a step; null where it does not fit, which a Failure has to say. */
function tried(on: Labels, one: Step): Labels | null {
  try {
    return applyStep(on, one);
  } catch (error) {
    expect((error as { code?: string }).code).toBe("step-misfit");
    return null;
  }
}

describe("a step", () => {
  it("and its inverse leave the labels as they were", () => {
    let fitting = 0;
    fc.assert(
      fc.property(labels, step, (before, one) => {
        const after = tried(before, one);
        if (after === null) return;
        fitting++;
        expect(applyStep(after, invertStep(before, one))).toEqual(before);
      }),
      { numRuns: 3000 },
    );
    expect(fitting).toBeGreaterThan(1000);
  });
  it("commutes with every step that touches another place", () => {
    let compared = 0;
    fc.assert(
      fc.property(labels, step, step, (before, one, other) => {
        if (collide([one], [other])) return;
        const [oneFirst, otherFirst] = [tried(before, one), tried(before, other)];
        if (oneFirst === null || otherFirst === null) return;
        compared++;
        expect(applyStep(oneFirst, other)).toEqual(applyStep(otherFirst, one));
      }),
      { numRuns: 3000 },
    );
    expect(compared).toBeGreaterThan(300);
  });
  it("goes to the database and back as it was, the runs of masks as bytes", () => {
    fc.assert(
      fc.property(step, (one) => {
        const stored = packStep(one);
        expect(JSON.stringify(stored)).not.toContain('"counts"');
        expect(storedStepsSchema.parse([JSON.parse(JSON.stringify(stored))])).toEqual([stepSchema.parse(one)]);
      }),
      { numRuns: 1000 },
    );
  });
  it("has words for people", () => {
    fc.assert(fc.property(step, (one) => void expect(stepText(one, (id) => `class ${id}`)).toMatch(/^[a-z]/)));
    const moved: Step = { do: "set-class", uid: uid(1), class: 2 };
    expect(stepsText([moved, { ...moved, uid: uid(2) }, { do: "set-split", split: "val" }], () => "tart")).toBe(
      "made an object a tart (2 times), moved to val",
    );
  });
});

it("a list of steps inverted in reverse order gives the former labels", () => {
  fc.assert(
    fc.property(labels, fc.array(step, { maxLength: 12 }), (before, list) => {
      const fitting: Step[] = [];
      let current = before;
      for (const one of list) {
        const after = tried(current, one);
        if (after) [current] = [after, fitting.push(one)];
      }
      const { after, inverse } = applySteps(before, fitting);
      expect(after).toEqual(current);
      expect(applySteps(after, inverse).after).toEqual(before);
    }),
    { numRuns: 1000 },
  );
});

const box = (x: number): Shape => ({ kind: "box", x, y: 1, width: 5, height: 5 });
const labeled = (...objects: StockObject[]): Labels => ({ ...noLabels, objects, state: "labeled" });

describe("places", () => {
  it("meet where an object goes that another step changes, and not in two attributes of one object", () => {
    const paint = (attribute: string): Step => ({ do: "set-attribute", uid: uid(1), name: attribute, value: "dark" });
    expect(collide([paint("bake")], [{ do: "remove-object", uid: uid(1) }])).toBe(true);
    expect(collide([paint("bake")], [paint("topping")])).toBe(false);
    expect(collide([paint("bake")], [paint("bake")])).toBe(true);
    expect(collide([{ do: "remove-object", uid: uid(1) }], [{ do: "remove-object", uid: uid(11) }])).toBe(false);
  });
});

describe("labels that a delivery brings", () => {
  const present = labeled(
    { uid: uid(1), class: 1, shape: box(0), order: 0 },
    { uid: uid(2), class: 2, shape: box(9), order: 1, attributes: { bake: "dark" } },
  );
  const incoming = {
    objects: [
      { uid: uid(8), class: 2, shape: box(9), order: 0 },
      { uid: uid(9), class: 3, shape: box(20), order: 1 },
    ],
    classes: [7],
    captions: ["two trays"],
    fields: { oven: "2" },
    state: "labeled" as const,
  };
  it("replace what is there; what is the same keeps its uid", () => {
    const { after } = applySteps(present, replaceSteps(present, incoming));
    expect(after.objects).toEqual([
      { uid: uid(2), class: 2, shape: box(9), order: 1 },
      { uid: uid(9), class: 3, shape: box(20), order: 2 },
    ]);
    expect(after).toMatchObject({ classes: [7], captions: ["two trays"], fields: { oven: "2" }, state: "labeled" });
    expect(replaceSteps(after, { ...incoming, objects: after.objects })).toEqual([]);
  });
  it("are added to what is there, and nothing goes", () => {
    const { after } = applySteps(present, addSteps(present, incoming));
    expect(after.objects.map(({ uid: one }) => one)).toEqual([uid(1), uid(2), uid(9)]);
    expect(after.objects[1]?.attributes).toEqual({ bake: "dark" });
  });
  it("that say nothing make an image empty, and one that was empty labeled", () => {
    const nothing = { objects: [], classes: [], captions: [], fields: {}, state: "empty" as const };
    expect(applySteps(present, replaceSteps(present, nothing)).after.state).toBe("empty");
    expect(stateStep({ ...noLabels, state: "empty", classes: [1] })).toEqual({ do: "set-state", state: "labeled" });
    expect(stateStep({ ...noLabels, state: "unlabeled" })).toBeNull();
  });
  it("come to exactly what they say, whatever was there", () => {
    fc.assert(
      fc.property(labels, labels, (before, wanted) => {
        const { after } = applySteps(
          before,
          replaceSteps(before, {
            ...wanted,
            objects: wanted.objects.map((one, at) => ({ ...one, uid: uid(900 + at) })),
          }),
        );
        const bare = (all: Labels) =>
          all.objects
            .map(({ uid: _, order: __, group: ___, ...rest }) => JSON.stringify([rest.class, rest.shape]))
            .sort();
        expect(bare(after)).toEqual(bare(wanted));
        expect([after.classes, after.captions, after.fields]).toEqual([wanted.classes, wanted.captions, wanted.fields]);
      }),
      { numRuns: 500 },
    );
  });
});
