import type { ShapeKind } from "@larder/core/model/shape";

/** What each kind of shape is called on screens. */
export const kindWords: Record<ShapeKind, string> = {
  box: "box",
  "rotated-box": "rotated box",
  polygon: "outline",
  mask: "mask",
  keypoints: "keypoints",
  line: "line",
};
