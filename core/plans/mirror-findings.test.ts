import { describe, expect, it } from "vitest";
import { Findings } from "../model/finding";
import { reportUnpairedMirrors } from "./mirror-findings";
import { planSchema } from "./plan";

const classes = [
  { name: "pretzel", keypoints: ["a", "b"] },
  { name: "person", keypoints: ["l_eye", "r_eye"] },
  { name: "dog", keypoints: ["p1", "p2"], pairs: [[0, 1]] as [number, number][] },
  { name: "roll" },
];
const found = (augment: object) => {
  const report = new Findings();
  reportUnpairedMirrors(planSchema.parse({ augment }), classes, report);
  return report.list().map(({ code, examples }) => [code, examples]);
};

describe("a mirror in a plan", () => {
  it("names classes with keypoints of which none is known to be another's left or right", () => {
    expect(found({ copies: 1, do: [{ op: "flip-sideways", chance: 0.5 }] })).toEqual([
      ["mirror-unpaired", ["pretzel"]],
    ]);
  });
  it("that never happens names none", () => {
    expect([found({ copies: 0, do: [{ op: "flip-over" }] }), found({ copies: 2, do: [] })]).toEqual([[], []]);
  });
});
