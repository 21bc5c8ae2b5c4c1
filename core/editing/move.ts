/** Shapes moved, mirrored and resized as wholes, and some of their corners moved together. */
import { shapeBounds } from "../geometry/shape";
import { affine, mapShape, translation, type Matrix } from "../geometry/transform";
import type { Size } from "../model/item";
import type { Box, Shape } from "../model/shape";
import { dragGrip, type Grip, type PlacedGrip } from "./grips";

/** The shape moved by (dx, dy) pixels; masks by whole ones. What leaves the picture is kept, but for a mask's pixels. */
export function moveShape(shape: Shape, dx: number, dy: number, size: Size): Shape {
  const [x, y] = shape.kind === "mask" ? [Math.round(dx), Math.round(dy)] : [dx, dy];
  return x === 0 && y === 0 ? shape : mapShape(shape, translation(x, y), size);
}

/** The map from a box to another one. */
function fitting(from: Box, to: Box): Matrix {
  const [sx, sy] = [to.width / Math.max(from.width, 1e-9), to.height / Math.max(from.height, 1e-9)];
  return affine(sx, 0, 0, sy, to.x - from.x * sx, to.y - from.y * sy);
}

/** The shape with the box around it changed to another; a rotated box that would be skewed becomes a polygon. */
export function fitShape(shape: Shape, to: Box, size: Size): Shape {
  const from = shapeBounds(shape);
  return from ? mapShape(shape, fitting(from, to), size) : shape;
}

/** The shape mirrored within the box around it: left and right, or up and down. */
export function mirrorShape(shape: Shape, way: "sideways" | "upside-down", size: Size): Shape {
  const box = shapeBounds(shape);
  if (!box) return shape;
  const map =
    way === "sideways" ? affine(-1, 0, 0, 1, 2 * box.x + box.width, 0) : affine(1, 0, 0, -1, 0, 2 * box.y + box.height);
  return mapShape(shape, map, size);
}

/** The shape grown about the middle of its box by a factor. */
export function scaleAbout(shape: Shape, factor: number, size: Size): Shape {
  const box = shapeBounds(shape);
  if (!box) return shape;
  const [width, height] = [box.width * factor, box.height * factor];
  return fitShape(
    shape,
    { x: box.x + (box.width - width) / 2, y: box.y + (box.height - height) / 2, width, height },
    size,
  );
}

/** The shape with several of its corners moved by the same way. */
export function moveCorners(shape: Shape, corners: readonly PlacedGrip[], dx: number, dy: number): Shape {
  return corners.reduce((moved, { grip, x, y }) => dragGrip(moved, grip, x + dx, y + dy), shape);
}

/** One text for a grip, the same for the same place of a shape. */
export const gripKey = (grip: Grip): string => JSON.stringify(Object.values(grip));
