/**
 * The shapes an object can have. Frame: continuous pixels of the upright image, origin at its top left
 * corner, a pixel covers [x, x+1). See docs/formats.md, "Inside Larder".
 */
import { z } from "zod";

/** An axis-aligned rectangle; its right edge is `x + width`, exclusive. */
export type Box = { x: number; y: number; width: number; height: number };

/** Flat coordinates `[x1, y1, x2, y2, …]` of a closed ring; the last point is not repeated. */
export type Ring = number[];

/** One part of a polygon: the outer ring first, then its holes. */
export type Part = Ring[];

/** v: 0 not labeled, 1 labeled but hidden, 2 visible. */
export type Keypoint = { x: number; y: number; v: 0 | 1 | 2 };

export type Shape =
  | ({ kind: "box" } & Box)
  | { kind: "rotated-box"; cx: number; cy: number; width: number; height: number; angle: number }
  | { kind: "polygon"; parts: Part[] }
  | { kind: "mask"; width: number; height: number; counts: number[] }
  | { kind: "keypoints"; points: Keypoint[]; box?: Box }
  | { kind: "line"; points: number[] };

export const shapeKinds = [
  "box",
  "rotated-box",
  "polygon",
  "mask",
  "keypoints",
  "line",
] as const satisfies readonly Shape["kind"][];
export type ShapeKind = Shape["kind"];

const coordinate = z.number();
export const boxSchema = z.object({ x: coordinate, y: coordinate, width: coordinate, height: coordinate });

export const keypointSchema = z.object({
  x: coordinate,
  y: coordinate,
  v: z.union([z.literal(0), z.literal(1), z.literal(2)]),
});

export const shapeSchema: z.ZodType<Shape> = z.discriminatedUnion("kind", [
  boxSchema.extend({ kind: z.literal("box") }),
  z.object({
    kind: z.literal("rotated-box"),
    cx: coordinate,
    cy: coordinate,
    width: coordinate,
    height: coordinate,
    angle: coordinate,
  }),
  z.object({ kind: z.literal("polygon"), parts: z.array(z.array(z.array(coordinate))) }),
  z.object({
    kind: z.literal("mask"),
    width: z.number().int(),
    height: z.number().int(),
    counts: z.array(z.number().int().nonnegative()),
  }),
  z.object({
    kind: z.literal("keypoints"),
    points: z.array(keypointSchema),
    box: boxSchema.optional(),
  }),
  z.object({ kind: z.literal("line"), points: z.array(coordinate) }),
]);
