/** The lines a shape is drawn with. */
import { boxCorners } from "../geometry/covered-share";
import { rotatedBoxCorners } from "../geometry/shape";
import { traceMask } from "../geometry/trace";
import type { Part, Shape } from "../model/shape";

export type Outline = { points: readonly number[]; closed: boolean };

/** Outlines of masks cost time to trace: each is traced once. */
const traced = new WeakMap<Shape, Part[]>();

/** The parts of a shape that covers an area, a mask's along its pixels' edges; null for keypoints and lines. */
export function areaParts(shape: Shape): readonly Part[] | null {
  switch (shape.kind) {
    case "box":
      return [[boxCorners(shape)]];
    case "rotated-box":
      return [[rotatedBoxCorners(shape)]];
    case "polygon":
      return shape.parts;
    case "mask": {
      const parts = traced.get(shape) ?? traceMask(shape.counts, shape.width, shape.height);
      traced.set(shape, parts);
      return parts;
    }
    case "keypoints":
    case "line":
      return null;
  }
}

/** Every line of a shape: rings of areas, the line, the box around keypoints. */
export function outlinesOf(shape: Shape): Outline[] {
  if (shape.kind === "line") return [{ points: shape.points, closed: false }];
  if (shape.kind === "keypoints") return shape.box ? [{ points: boxCorners(shape.box), closed: true }] : [];
  return (areaParts(shape) ?? []).flatMap((part) => part.map((ring) => ({ points: ring, closed: true })));
}
