import { planSchema } from "@larder/core/plans/plan";
import { describe, expect, it } from "vitest";
import { stepSummaries } from "./step-summaries";

const say = (plan: object) => stepSummaries(planSchema.parse(plan));

describe("stepSummaries", () => {
  it("of a new plan say what it does", () => {
    expect(say({})).toEqual({
      select: "labeled or empty",
      relabel: "classes as they are",
      split: "70 / 20 / 10, seed 1",
      prepare: "size as it is",
      augment: "no copies",
      pack: "yolo",
    });
  });
  it("name what is chosen and left out, in few words", () => {
    expect(say({ select: { states: [] } }).select).toBe("nothing");
    expect(say({ select: { states: ["labeled", "empty", "unlabeled"] } }).select).toBe("everything");
    expect(say({ select: { where: "tag = night", floor: 10, states: ["labeled"] } }).select).toBe(
      "tag = night, labeled, classes from 10 images",
    );
    expect(say({ relabel: { leaveOut: ["roll", "tart"] } }).relabel).toBe("roll and tart left out");
    expect(say({ relabel: { leaveOut: ["a", "b", "c"], rename: { d: "e" } } }).relabel).toBe(
      "3 classes left out; 1 renamed",
    );
  });
  it("say how images are dealt, sized, copied and packed", () => {
    expect(say({ split: { stand: "all" } }).split).toBe("keeps what came, the rest 70 / 20 / 10, seed 1");
    expect(say({ split: { mode: "keep" } }).split).toBe("as it stands in stock");
    expect(say({ prepare: { resize: { mode: "fit", width: 640, height: 480, larger: true } } }).prepare).toBe(
      "inside 640 × 480",
    );
    expect(say({ augment: { copies: 2, do: [{ op: "flip-sideways", chance: 0.5 }] } }).augment).toBe(
      "train only, 2 more of each, flip sideways",
    );
    expect(say({ augment: { copies: 1 } }).augment).toBe("train only, 1 more of each");
    expect(say({ pack: { formats: [] } }).pack).toBe("no package yet");
    expect(say({ pack: { formats: ["coco", "yolo"] } }).pack).toBe("coco, yolo");
  });
});
