import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ops } from "../imaging/ops/registry";
import { newOpStep } from "./augmentations";
import { completePlan } from "./complete-plan";
import { planSchema } from "./plan";
import { PlanError, planFromYaml, planToYaml } from "./plan-text";
import { upgradePlan } from "./upgrade";

/** Every mistake as `line:key`. */
function mistakes(text: string): string[] {
  try {
    planFromYaml(text);
    return [];
  } catch (error) {
    if (error instanceof PlanError) return error.mistakes.map(({ line, key }) => `${line}:${key}`);
    throw error;
  }
}

describe("a plan as text", () => {
  it("of its number alone holds all defaults of the plan document", () => {
    expect(planFromYaml("plan: 2")).toMatchObject({
      seed: 1,
      visible: 0.3,
      select: { states: ["labeled", "empty"] },
      split: { mode: "ratio", ratio: { train: 70, val: 20, test: 10 }, stand: "pinned", together: [], evenly: true },
      prepare: { outside: "edge", resize: null, tiles: null },
      augment: { copies: 0, original: true, do: [] },
      pack: { formats: [{ format: "yolo" }], images: { as: "same", quality: 92 }, names: "{name}", classes: "stock" },
    });
    expect(planToYaml(planFromYaml("plan: 2"))).toBe("plan: 2\n");
  });
  it("comes back the same, with every op at its default", () => {
    const plan = planSchema.parse({
      relabel: { leaveOut: ["tart"], rename: { Croissant: "croissant" }, objects: "share >= 1%" },
      split: { ratio: { train: 80, val: 20, test: 0 }, together: ["near-copies", { name: "^(\\w+)_\\d+" }] },
      visible: "45%",
      prepare: { resize: { mode: "pad", width: 224 }, tiles: { columns: 2, rows: 3, overlap: 64 } },
      augment: {
        copies: 2,
        do: [
          ...ops.map(({ name }) => newOpStep(name)),
          { oneOf: [{ op: "blur", sigma: 1 }], chance: "40%" },
          { someOf: [1, 2], ops: [{ op: "hue" }, { op: "grey", chance: 0.5 }] },
        ],
      },
      pack: { formats: ["yolo", { format: "coco", options: { images: "none" } }] },
    });
    expect(planFromYaml(planToYaml(plan))).toEqual(plan);
  });
  it("writes shares either way, and refuses a bare 30", () => {
    expect(planFromYaml("visible: 30%").visible).toBe(0.3);
    expect(planFromYaml("visible: 0.3").visible).toBe(0.3);
    expect(() => planFromYaml("visible: 30")).toThrow(/Line 1, visible: 30 is out of range.*0% to 100%/);
  });
  it("says every mistake with its line and key, and what would be right", () => {
    expect(mistakes("plan: 2\nselct: {}\nsplit:\n  ratio: { train: lots }")).toEqual([
      "2:selct",
      "4:split.ratio.train",
    ]);
    expect(() => planFromYaml("selct: {}")).toThrow(/Did you mean select/);
    expect(() => planFromYaml("augment: { do: [{ op: rotat }] }")).toThrow(/Did you mean rotate/);
    expect(
      mistakes("augment:\n  do:\n    - { op: rotate, degrees: [5, -5] }\n    - { op: blur, sigma: 99, foo: 1 }"),
    ).toEqual(["3:augment.do[0].degrees", "4:augment.do[1].foo", "4:augment.do[1].sigma"]);
    expect(mistakes("prepare: { tiles: { width: 1, height: 1 }, resize: { width: 50000 } }")).toEqual([
      "1:prepare.tiles.width",
      "1:prepare.tiles.height",
      "1:prepare.resize.width",
    ]);
    expect(mistakes("select: { where: 'objects >' }\nrelabel: { objects: 'share >' }")).toHaveLength(2);
    expect(() => planFromYaml("select: [")).toThrow(/not YAML/);
    expect(() => planFromYaml("split: {ratio: {train: 0}}")).toThrow(/above 0/);
    expect(() => planFromYaml("split: { together: [{ name: '(a+)+$(' }] }")).toThrow(/no pattern/);
    expect(() => planFromYaml("split: { folds: { of: 3, this: 3 } }")).toThrow(/numbered from 0/);
    expect(() => planFromYaml("pack: { names: 'x' }")).toThrow(/tell images apart/);
  });
  it("takes no text for a plan that is none, whatever it is", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        try {
          planSchema.parse(planFromYaml(text));
        } catch (error) {
          expect(error).toBeInstanceOf(PlanError);
        }
      }),
    );
  });
});

describe("upgradePlan", () => {
  const first = {
    select: { states: ["labeled"], deliveries: [3, 4] },
    relabel: { leaveOut: ["tart"], rename: {}, emptied: "keep" },
    split: { mode: "ratio", stand: "all", ratio: { train: 8, val: 1, test: 1 }, seed: 5 },
    prepare: { resize: { mode: "fit", width: 64, height: 48 } },
    augment: { copies: 2, flipSideways: 0.5, unchanged: "leave-out" },
    pack: { formats: ["coco"] },
  };
  it("keeps what the first kind of document meant", () => {
    const plan = upgradePlan(
      first,
      new Map([
        [3, "Spring"],
        [4, 'The "late" racks'],
      ]),
    );
    expect(plan).toMatchObject({
      seed: 5,
      select: { where: 'delivery = "Spring" or delivery = "The \\"late\\" racks"', states: ["labeled"] },
      split: { stand: "all", ratio: { train: 8, val: 1, test: 1 } },
      prepare: { resize: { mode: "fit", width: 64, height: 48, larger: true } },
      augment: { copies: 2, unchanged: "leave-out", do: [{ op: "flip-sideways", chance: 0.5 }] },
    });
    expect(upgradePlan(plan)).toEqual(plan);
  });
});

describe("completePlan", () => {
  const at = (text: string) => completePlan(text, text.length).proposals.map(({ text: word }) => word);
  it("proposes keys of the part one is in, ops and words", () => {
    expect(at("")).toContain("augment");
    expect(at("split:\n  ")).toContain("together");
    expect(at("split:\n  mode: ")).toEqual(["ratio", "counts", "keep", "folds", "by-date"]);
    expect(at("prepare:\n  resize: { ")).toContain("larger");
    expect(at("augment:\n  do:\n    - { op: ro")).toContain("rotate");
    expect(at("augment:\n  do:\n    - { op: rotate, ")).toEqual(["degrees", "frame", "chance"]);
  });
});
