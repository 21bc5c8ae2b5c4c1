import { describe, expect, it } from "vitest";
import { PlanError, planFromYaml, planToYaml } from "../plans/plan-text";
import { smallSnapshot } from "../tests/small-snapshot";
import { checkedStockOf } from "./checked-stock";
import { checkCodes } from "./codes";
import { closedGates, gatedChecks, gateResults } from "./gates";
import { allChecks, takeStock } from "./stocktake";

const stock = smallSnapshot(
  ["roll", "tart", "bun"],
  [
    { split: "train", objects: [{ of: "roll", box: [0, 0, 2, 9] }, { of: "tart" }] },
    { split: "val", objects: [{ of: "roll", box: [0, 0, 9, 3] }] },
  ],
);
const findings = takeStock(checkedStockOf(stock, Uint32Array.of(0, 1), null));

describe("gates", () => {
  it("count objects where a check counts objects, and classes where it speaks of classes", () => {
    const results = gateResults({ "box-tiny": 1, "class-rare": 2, "split-empty": 0, "object-duplicate": 0 }, findings);
    expect(results.map(({ code, found, isOpen }) => [code, found, isOpen])).toEqual([
      ["object-duplicate", 0, true],
      // 2 × 9 and 9 × 3 pixels.
      ["box-tiny", 2, false],
      // roll with two examples and tart with one; nothing is labeled bun.
      ["class-rare", 2, true],
      ["split-empty", 1, false],
    ]);
    expect(closedGates(results)).toBe(
      "2 gates of the plan are closed: box-tiny (2 found, at most 1 allowed), split-empty (1 found, at most 0 allowed)." +
        " 2 objects are fewer than 4 pixels wide or high. Mend it, or change the plan's gates.",
    );
  });
  it("say nothing where all are open, or there are none", () => {
    expect(closedGates(gateResults({ "box-tiny": 2 }, findings))).toBeNull();
    expect(gateResults({}, findings)).toEqual([]);
    expect(gatedChecks({ "box-tiny": 0 }).map(({ code }) => code)).toEqual(["box-tiny"]);
  });
  it("stand in a plan by the codes of the checks, and others are refused by name", () => {
    const plan = planFromYaml("plan: 2\ngates: { box-tiny: 3 }\n");
    expect(plan.gates).toEqual({ "box-tiny": 3 });
    expect(planFromYaml(planToYaml(plan))).toEqual(plan);
    expect(planToYaml(planFromYaml("plan: 2"))).not.toContain("gates");
    const mistakes = (text: string) => {
      try {
        planFromYaml(text);
      } catch (error) {
        if (error instanceof PlanError) return error.mistakes.map(({ key, line, message }) => [key, line, message]);
        throw error;
      }
      return [];
    };
    const [mistake] = mistakes("plan: 2\ngates:\n  box-tny: 0\n");
    expect(mistake?.slice(0, 2)).toEqual(["gates.box-tny", 3]);
    expect(mistake?.[2]).toMatch(/^There is no check box-tny\. Did you mean box-tiny\?/);
    expect(mistakes("plan: 2\ngates:\n  box-tiny: -1\n")).toEqual([
      ["gates.box-tiny", 3, "-1 is out of range. It takes a whole number from 0 to 1000000000."],
    ]);
  });
  it("know the code of every check", () => {
    expect(allChecks.map(({ code }) => code)).toEqual([...checkCodes]);
  });
});
