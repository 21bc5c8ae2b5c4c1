import { describe, expect, it } from "vitest";
import { readScores } from "./scores";

describe("scores", () => {
  it("of a training log are those of its best epoch, under their usual names", () => {
    const log = [
      "epoch, time, train/box_loss, metrics/precision(B), metrics/recall(B), metrics/mAP50(B), metrics/mAP50-95(B), lr/pg0",
      "1, 12.1, 1.2, 0.50, 0.40, 0.45, 0.20, 0.01",
      "2, 24.4, 0.9, 0.80, 0.70, 0.75, 0.51, 0.01",
      "3, 36.2, 0.8, 0.82, 0.68, 0.74, 0.50, 0.01",
    ].join("\n");
    expect(readScores(log)).toEqual({
      overall: { precision: 0.8, recall: 0.7, "mAP 50": 0.75, mAP: 0.51 },
      byClass: {},
    });
  });
  it("are read class by class, the row of all apart, with another sign between columns", () => {
    const table =
      "Class;Images;P;R;mAP@0.5;mAP@0.5:0.95\nall;120;0.7;0.6;0.65;0.4\nroll;80;0.9;0.8;0.85;0.6\n__proto__;3;0;0;0;0";
    const { overall, byClass } = readScores(table);
    expect(overall).toEqual({ precision: 0.7, recall: 0.6, "mAP 50": 0.65, mAP: 0.4 });
    expect(byClass["roll"]).toEqual({ precision: 0.9, recall: 0.8, "mAP 50": 0.85, mAP: 0.6 });
    expect(Object.keys(byClass)).toEqual(["roll", "__proto__"]);
  });
  it("of a report of classes are read from JSON, averages as the whole", () => {
    const report = {
      roll: { precision: 0.9, recall: 0.8, "f1-score": 0.847, support: 40 },
      tart: { precision: 0.5, recall: 0.5, "f1-score": 0.5, support: 4 },
      accuracy: 0.77,
      "macro avg": { precision: 0.7, recall: 0.65, "f1-score": 0.674, support: 44 },
      "weighted avg": { precision: 0.86, recall: 0.77, "f1-score": 0.81, support: 44 },
    };
    expect(readScores(JSON.stringify(report))).toEqual({
      overall: { accuracy: 0.77, precision: 0.7, recall: 0.65, F1: 0.674 },
      byClass: { roll: { precision: 0.9, recall: 0.8, F1: 0.847 }, tart: { precision: 0.5, recall: 0.5, F1: 0.5 } },
    });
  });
  it("counted to a hundred become shares, and measures by class are read either way round", () => {
    expect(readScores(JSON.stringify({ bbox: { AP: 37.4, AP50: 58.1, AP75: 40 } })).overall).toEqual({
      mAP: 0.374,
      "mAP 50": 0.581,
      "mAP 75": 0.4,
    });
    expect(readScores(JSON.stringify({ AP: { roll: 0.4, tart: 0.2 } })).byClass).toEqual({
      roll: { mAP: 0.4 },
      tart: { mAP: 0.2 },
    });
    expect(readScores(JSON.stringify({ per_class: { roll: { iou: 0.61 } }, mIoU: 0.61 }))).toEqual({
      overall: { IoU: 0.61 },
      byClass: { roll: { IoU: 0.61 } },
    });
    expect(readScores("metric,value\naccuracy,91%\ntime,12").overall).toEqual({ accuracy: 0.91 });
  });
  it.each(["", "{", "[]", "name,age\nAnn,x", "epoch,loss\n1,0.4", '{"loss": 0.3}'])("are not found in %j", (text) => {
    expect(() => readScores(text)).toThrow(/measure|JSON|table/);
  });
});
