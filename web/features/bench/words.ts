import type { ShapeKind } from "@larder/core/model/shape";

export const kindWords: Record<ShapeKind, string> = {
  box: "box",
  "rotated-box": "turned box",
  polygon: "outline",
  mask: "mask",
  keypoints: "points",
  line: "line",
};
