/** How much of a moved shape is inside a frame. */
import type { Size } from "../model/item";
import type { Shape } from "../model/shape";
import { clipLine, lineLength } from "./line";
import { clipRing, polygonArea } from "./polygon";
import { eachRun } from "./run-length";
import { rotatedBoxCorners } from "./shape";
import { applyToPoint, mapPoints, type Matrix } from "./transform";

function shareOfRing(corners: readonly number[], { width, height }: Size): number {
  const whole = polygonArea([[[...corners]]]);
  return whole > 0 ? polygonArea([[clipRing([...corners], width, height)]]) / whole : 0;
}

/**
 * Of a shape's area, its pixels for a mask, its length for a line, its points for keypoints without a box: the share,
 * 0 … 1, that lies inside [0, width] × [0, height] after the map.
 */
export function visibleShare(shape: Shape, matrix: Matrix, frame: Size): number {
  switch (shape.kind) {
    case "box": {
      const { x, y, width, height } = shape;
      return shareOfRing(mapPoints(matrix, [x, y, x + width, y, x + width, y + height, x, y + height]), frame);
    }
    case "rotated-box":
      return shareOfRing(mapPoints(matrix, rotatedBoxCorners(shape)), frame);
    case "polygon": {
      const moved = shape.parts.map((part) => part.map((ring) => mapPoints(matrix, ring)));
      const whole = polygonArea(moved);
      const inside = moved.map((part) => part.map((ring) => clipRing(ring, frame.width, frame.height)));
      return whole > 0 ? polygonArea(inside) / whole : 0;
    }
    case "mask": {
      let [pixels, inside] = [0, 0];
      eachRun(shape.counts, (from, to) => {
        for (let at = from; at < to; at++) {
          const [x, y] = applyToPoint(matrix, Math.floor(at / shape.height) + 0.5, (at % shape.height) + 0.5);
          pixels++;
          if (x >= 0 && y >= 0 && x <= frame.width && y <= frame.height) inside++;
        }
      });
      return pixels > 0 ? inside / pixels : 0;
    }
    case "keypoints": {
      if (shape.box) return visibleShare({ kind: "box", ...shape.box }, matrix, frame);
      const known = shape.points.filter(({ v }) => v > 0);
      const inside = known.filter((point) => {
        const [x, y] = applyToPoint(matrix, point.x, point.y);
        return x >= 0 && y >= 0 && x <= frame.width && y <= frame.height;
      });
      return known.length > 0 ? inside.length / known.length : 0;
    }
    case "line": {
      const moved = mapPoints(matrix, shape.points);
      const whole = lineLength(moved);
      const inside = clipLine(moved, frame.width, frame.height);
      return whole > 0 && inside ? lineLength(inside) / whole : 0;
    }
  }
}
