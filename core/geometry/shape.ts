/** What every shape can be asked: its box, its area, whether it is whole, its part inside the image. */
import type { Box, Part, Shape } from "../model/shape";
import { boundsOfPoints, boxArea, clipBox } from "./box";
import { clipLine } from "./line";
import { clipRing, polygonArea } from "./polygon";
import { resizeCanvas, runsArea, runsBounds } from "./run-length";

/** Corners of a rotated box, clockwise from its own top left; `angle` in radians, clockwise on screen. */
export function rotatedBoxCorners(shape: Extract<Shape, { kind: "rotated-box" }>): number[] {
  const cos = Math.cos(shape.angle);
  const sin = Math.sin(shape.angle);
  const corners: number[] = [];
  for (const [dx, dy] of [
    [-0.5, -0.5],
    [0.5, -0.5],
    [0.5, 0.5],
    [-0.5, 0.5],
  ] as const) {
    const u = dx * shape.width;
    const v = dy * shape.height;
    corners.push(shape.cx + u * cos - v * sin, shape.cy + u * sin + v * cos);
  }
  return corners;
}

type RotatedBox = Extract<Shape, { kind: "rotated-box" }>;

function boundsOfParts(parts: readonly Part[]): Box | null {
  if (parts.length === 1) return boundsOfPoints(parts[0]?.[0] ?? []);
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const part of parts) {
    const box = boundsOfPoints(part[0] ?? []);
    if (!box) continue;
    left = Math.min(left, box.x);
    top = Math.min(top, box.y);
    right = Math.max(right, box.x + box.width);
    bottom = Math.max(bottom, box.y + box.height);
  }
  return left === Infinity ? null : { x: left, y: top, width: right - left, height: bottom - top };
}

/** The smallest axis-aligned box around a shape; null where it has no point. */
export function shapeBounds(shape: Shape): Box | null {
  switch (shape.kind) {
    case "box":
      return { x: shape.x, y: shape.y, width: shape.width, height: shape.height };
    case "rotated-box":
      return boundsOfPoints(rotatedBoxCorners(shape));
    case "polygon":
      return boundsOfParts(shape.parts);
    case "mask":
      return runsBounds(shape.counts, shape.height);
    case "keypoints":
      return shape.box ?? boundsOfPoints(shape.points.filter((p) => p.v > 0).flatMap((p) => [p.x, p.y]));
    case "line":
      return boundsOfPoints(shape.points);
  }
}

/** Area in square pixels: the shape's own, not its box's. Keypoints answer with their box, lines with 0. */
export function shapeArea(shape: Shape): number {
  switch (shape.kind) {
    case "box":
      return boxArea(shape);
    case "rotated-box":
      return Math.abs(shape.width * shape.height);
    case "polygon":
      return polygonArea(shape.parts);
    case "mask":
      return runsArea(shape.counts);
    case "keypoints": {
      const box = shapeBounds(shape);
      return box ? boxArea(box) : 0;
    }
    case "line":
      return 0;
  }
}

function allFinite(values: readonly number[]): boolean {
  for (let i = 0; i < values.length; i++) if (!Number.isFinite(values[i])) return false;
  return true;
}

function isFiniteBox(box: Box): boolean {
  return Number.isFinite(box.x) && Number.isFinite(box.y) && Number.isFinite(box.width) && Number.isFinite(box.height);
}

function isFiniteShape(shape: Shape): boolean {
  switch (shape.kind) {
    case "box":
      return isFiniteBox(shape);
    case "rotated-box":
      return (
        Number.isFinite(shape.cx) &&
        Number.isFinite(shape.cy) &&
        Number.isFinite(shape.width) &&
        Number.isFinite(shape.height) &&
        Number.isFinite(shape.angle)
      );
    case "polygon":
      return shape.parts.every((part) => part.every(allFinite));
    case "mask":
      return true;
    case "keypoints":
      return (
        shape.points.every((p) => Number.isFinite(p.x) && Number.isFinite(p.y)) &&
        (shape.box === undefined || isFiniteBox(shape.box))
      );
    case "line":
      return allFinite(shape.points);
  }
}

/** True where the shape has no area, too few points, or something that is not a number. */
export function isDegenerate(shape: Shape): boolean {
  if (!isFiniteShape(shape)) return true;
  switch (shape.kind) {
    case "box":
    case "rotated-box":
      return !(shape.width > 0 && shape.height > 0);
    case "polygon":
      return (
        shape.parts.length === 0 ||
        shape.parts.some((part) => part.length === 0 || part.some((ring) => ring.length < 6)) ||
        polygonArea(shape.parts) <= 0
      );
    case "mask":
      return (
        shape.counts.reduce((sum, run) => sum + run, 0) > shape.width * shape.height || runsArea(shape.counts) === 0
      );
    case "keypoints":
      return shape.points.every((p) => p.v === 0) && !(shape.box && boxArea(shape.box) > 0);
    case "line":
      return shape.points.length < 2;
  }
}

/** How far, in pixels, rounding may carry a shape past the edge before that is worth a finding. */
const edgeTolerance = 1e-3;

/** True where some of the shape lies outside [0, width] × [0, height]. */
export function reachesOutside(shape: Shape, width: number, height: number): boolean {
  if (shape.kind === "mask") return shape.width > width || shape.height > height;
  const box = shapeBounds(shape);
  if (!box) return false;
  return (
    box.x < -edgeTolerance ||
    box.y < -edgeTolerance ||
    box.x + box.width > width + edgeTolerance ||
    box.y + box.height > height + edgeTolerance
  );
}

/**
 * The smallest rotated box of the same angle around the part inside; the box itself where none of it is outside. Null
 * where nothing is left.
 */
function clipRotatedBox(shape: RotatedBox, width: number, height: number): RotatedBox | null {
  if (!reachesOutside(shape, width, height)) return shape;
  const inside = clipRing(rotatedBoxCorners(shape), width, height);
  if (polygonArea([[inside]]) <= 0) return null;
  const cos = Math.cos(shape.angle);
  const sin = Math.sin(shape.angle);
  const own: number[] = [];
  for (let i = 0; i + 1 < inside.length; i += 2) {
    const [dx, dy] = [(inside[i] as number) - shape.cx, (inside[i + 1] as number) - shape.cy];
    own.push(dx * cos + dy * sin, dy * cos - dx * sin);
  }
  const bounds = boundsOfPoints(own);
  if (!bounds || !(bounds.width > 0 && bounds.height > 0)) return null;
  const [u, v] = [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2];
  return {
    kind: "rotated-box",
    cx: shape.cx + u * cos - v * sin,
    cy: shape.cy + u * sin + v * cos,
    width: bounds.width,
    height: bounds.height,
    angle: shape.angle,
  };
}

/**
 * The part of a shape inside [0, width] × [0, height]; null where nothing of it is left. Inside shapes come back
 * unchanged but for rounding past the edge.
 */
export function clipShape(shape: Shape, width: number, height: number): Shape | null {
  switch (shape.kind) {
    case "box": {
      if (shape.x >= 0 && shape.y >= 0 && shape.x + shape.width <= width && shape.y + shape.height <= height)
        return shape;
      const box = clipBox(shape, width, height);
      return boxArea(box) > 0 ? { kind: "box", ...box } : null;
    }
    case "rotated-box":
      return clipRotatedBox(shape, width, height);
    case "polygon": {
      const bounds = shapeBounds(shape);
      if (
        bounds &&
        bounds.x >= 0 &&
        bounds.y >= 0 &&
        bounds.x + bounds.width <= width &&
        bounds.y + bounds.height <= height
      )
        return shape;
      const parts = shape.parts
        .map((part): Part =>
          part.map((ring) => clipRing(ring, width, height)).filter((ring, index) => index === 0 || ring.length >= 6),
        )
        .filter((part) => (part[0]?.length ?? 0) >= 6 && polygonArea([part]) > 0);
      return parts.length > 0 ? { kind: "polygon", parts } : null;
    }
    case "mask": {
      if (shape.width === width && shape.height === height) return shape;
      const counts = resizeCanvas(shape.counts, shape, { width, height });
      return runsArea(counts) > 0 ? { kind: "mask", width, height, counts } : null;
    }
    case "keypoints": {
      const points = shape.points.map((p) =>
        p.v > 0 && (p.x < 0 || p.y < 0 || p.x > width || p.y > height) ? { x: 0, y: 0, v: 0 as const } : p,
      );
      const box = shape.box ? clipBox(shape.box, width, height) : undefined;
      if (points.every((p) => p.v === 0) && !(box && boxArea(box) > 0)) return null;
      return { kind: "keypoints", points, ...(box && boxArea(box) > 0 ? { box } : {}) };
    }
    case "line": {
      const points = clipLine(shape.points, width, height);
      return points ? { kind: "line", points } : null;
    }
  }
}
