/** Intersection over union of any two shapes, and Boolean operations on polygons. */
import clipping, { type MultiPolygon, type Polygon } from "polygon-clipping";
import type { Part, Ring, Shape } from "../model/shape";
import { boxIntersectionOverUnion } from "./box";
import { polygonArea } from "./polygon";
import { polygonToMask } from "./rasterise";
import { runsArea } from "./run-length";
import { rotatedBoxCorners, shapeBounds } from "./shape";

function pairs(ring: Ring): [number, number][] {
  return Array.from({ length: ring.length / 2 }, (_, i): [number, number] => [
    ring[2 * i] as number,
    ring[2 * i + 1] as number,
  ]);
}

function geometry(parts: readonly Part[]): Polygon[] {
  return parts.map((part) => part.map(pairs));
}

function partsOf(polygons: MultiPolygon): Part[] {
  // The package repeats a ring's first point at its end; ours do not.
  return polygons.map((polygon) => polygon.map((ring) => ring.slice(0, -1).flat()));
}

/** The area both cover, as parts with holes. */
export function intersectPolygons(a: readonly Part[], b: readonly Part[]): Part[] {
  return partsOf(clipping.intersection(geometry(a), geometry(b)));
}

/** The area either covers. */
export function unitePolygons(a: readonly Part[], b: readonly Part[]): Part[] {
  return partsOf(clipping.union(geometry(a), geometry(b)));
}

/** The area `a` covers and `b` does not. */
export function subtractPolygons(a: readonly Part[], b: readonly Part[]): Part[] {
  return partsOf(clipping.difference(geometry(a), geometry(b)));
}

/** Pixels that both run-length masks of the same canvas hold, found by walking the runs. */
export function runsIntersection(a: readonly number[], b: readonly number[]): number {
  let [i, j, area] = [0, 0, 0];
  let [restA, restB] = [a[0] ?? 0, b[0] ?? 0];
  while (i < a.length && j < b.length) {
    const step = Math.min(restA, restB);
    if (i % 2 === 1 && j % 2 === 1) area += step;
    restA -= step;
    restB -= step;
    if (restA === 0) restA = a[++i] ?? 0;
    if (restB === 0) restB = b[++j] ?? 0;
  }
  return area;
}

/** A shape's region as parts; null where it covers none. Keypoints stand for their box. */
function regionOf(shape: Exclude<Shape, { kind: "mask" }>): Part[] | null {
  if (shape.kind === "polygon") return shape.parts;
  if (shape.kind === "line") return null;
  if (shape.kind === "rotated-box") return [[rotatedBoxCorners(shape)]];
  const box = shapeBounds(shape);
  return (
    box && [
      [[box.x, box.y, box.x + box.width, box.y, box.x + box.width, box.y + box.height, box.x, box.y + box.height]],
    ]
  );
}

/**
 * Intersection over union, 0…1. Boxes, rotated boxes and polygons are compared exactly; against a mask the other shape
 * is rasterised on its canvas, a pixel belonging to it when its centre lies inside. Keypoints stand for their box,
 * lines cover nothing.
 */
export function intersectionOverUnion(a: Shape, b: Shape): number {
  if (a.kind === "box" && b.kind === "box") return boxIntersectionOverUnion(a, b);
  if (a.kind === "mask" || b.kind === "mask") {
    const canvas = a.kind === "mask" ? a : (b as Extract<Shape, { kind: "mask" }>);
    const runs = (shape: Shape): number[] => {
      if (shape.kind === "mask") return shape.counts;
      const region = regionOf(shape);
      return region ? polygonToMask(region, canvas.width, canvas.height) : [];
    };
    if (a.kind === "mask" && b.kind === "mask" && a.height !== b.height) return 0;
    const [left, right] = [runs(a), runs(b)];
    const overlap = runsIntersection(left, right);
    return overlap === 0 ? 0 : overlap / (runsArea(left) + runsArea(right) - overlap);
  }
  const [left, right] = [regionOf(a), regionOf(b)];
  if (!left || !right) return 0;
  const overlap = polygonArea(intersectPolygons(left, right));
  if (overlap === 0) return 0;
  return overlap / polygonArea(unitePolygons(left, right));
}
