import { describe, expect, it } from "vitest";
import { allClasses, classesScored, measuresIn, scoreSeries, type ScoredVersion } from "./score-series";

const scored: ScoredVersion[] = [
  { number: 2, model: "small", scores: { overall: { mAP: 0.5, sharpness: 1 }, byClass: { roll: { mAP: 0.7 } } } },
  { number: 1, model: "small", scores: { overall: { mAP: 0.4 }, byClass: { roll: { mAP: 0.6, recall: 1 } } } },
  { number: 2, model: "large", scores: { overall: { recall: 0.9 }, byClass: { tart: { mAP: 0.1 } } } },
  { number: 2, model: "small", scores: { overall: { mAP: 0.55 }, byClass: {} } },
];

describe("scores over versions", () => {
  it("name their measures, the telling ones first, and the classes that were measured", () => {
    expect(measuresIn(scored)).toEqual(["mAP", "recall", "sharpness"]);
    expect(classesScored(scored, "mAP")).toEqual(["roll", "tart"]);
    expect(classesScored(scored, "sharpness")).toEqual([]);
  });
  it("are a line a model in the order of versions, the last measurement of each counting", () => {
    expect(scoreSeries(scored, "mAP", allClasses)).toEqual([
      {
        model: "small",
        points: [
          { number: 1, value: 0.4 },
          { number: 2, value: 0.55 },
        ],
      },
    ]);
    expect(scoreSeries(scored, "mAP", "tart")).toEqual([{ model: "large", points: [{ number: 2, value: 0.1 }] }]);
    expect(scoreSeries(scored, "mAP", "constructor")).toEqual([]);
  });
});
