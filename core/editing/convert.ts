/** Shapes made into others, with what that loses. */
import { minimumAreaBox } from "../geometry/minimum-area-box";
import { intersectionOverUnion } from "../geometry/overlap";
import { polygonToMask } from "../geometry/rasterise";
import { shapeBounds } from "../geometry/shape";
import { simplifyRing } from "../geometry/simplify";
import type { Size } from "../model/item";
import type { Shape, ShapeKind } from "../model/shape";
import { areaParts } from "./outlines";

export type Conversion = {
  shape: Shape;
  /** The share of both areas together that only one of them covers: 0 … 1. */ loss: number;
};

const simplifiedParts = (shape: Shape, tolerance: number) =>
  (areaParts(shape) ?? [])
    .map((part) => part.map((ring) => simplifyRing(ring, tolerance)).filter((ring) => ring.length >= 6))
    .filter((part) => part.length > 0);

const cornersOf = (shape: Shape) => (areaParts(shape) ?? []).flatMap((part) => part[0] ?? []);

function converted(shape: Shape, kind: ShapeKind, size: Size, tolerance: number): Shape | null {
  switch (kind) {
    case "polygon": {
      const parts = simplifiedParts(shape, tolerance);
      return parts.length > 0 ? { kind: "polygon", parts } : null;
    }
    case "mask": {
      const counts = polygonToMask(areaParts(shape) ?? [], size.width, size.height);
      return counts.length > 1 ? { kind: "mask", ...size, counts } : null;
    }
    case "rotated-box":
      return minimumAreaBox(cornersOf(shape));
    case "box": {
      const box = shapeBounds(shape);
      return box ? { kind: "box", ...box } : null;
    }
    case "keypoints":
    case "line":
      return null;
  }
}

/**
 * An area as a shape of another kind; outlines of polygons keep within `tolerance` pixels of what they were made from.
 * Null where it has no area, or where the kind is none of an area.
 */
export function convertShape(shape: Shape, kind: ShapeKind, size: Size, tolerance = 0): Conversion | null {
  if (!areaParts(shape)) return null;
  const after = converted(shape, kind, size, tolerance);
  return after && { shape: after, loss: 1 - intersectionOverUnion(shape, after) };
}
