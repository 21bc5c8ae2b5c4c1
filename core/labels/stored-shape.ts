/** Shapes at rest: a mask's runs are bytes, in a column of their own or, within JSON, as base64; all else is as it is. */
import { base64 } from "@scure/base";
import { runsFromBytes, runsToBytes } from "../geometry/run-bytes";
import type { Shape } from "../model/shape";

type Mask = Extract<Shape, { kind: "mask" }>;
type MaskFrame = Omit<Mask, "counts">;

/** What stands beside the bytes of a mask, or the whole of any other shape. */
export type ShapeColumn = Exclude<Shape, Mask> | MaskFrame;
/** A shape within JSON. */
export type StoredShape = Exclude<Shape, Mask> | (MaskFrame & { runs: string });

export function packShape(shape: Shape): StoredShape {
  if (shape.kind !== "mask") return shape;
  const { counts, ...frame } = shape;
  return { ...frame, runs: base64.encode(runsToBytes(counts)) };
}

function unpacked(frame: MaskFrame, bytes: Uint8Array): Shape {
  const counts = runsFromBytes(bytes);
  if (!counts) throw new Error(`the runs of a mask of ${frame.width} × ${frame.height} are damaged`);
  return { kind: "mask", width: frame.width, height: frame.height, counts };
}

/** Throws where a mask's runs are damaged. */
export function unpackShape(stored: StoredShape): Shape {
  return stored.kind === "mask" ? unpacked(stored, base64.decode(stored.runs)) : stored;
}

/** A shape from its columns. Throws where a mask's runs are damaged or missing. */
export function shapeFromColumns(shape: ShapeColumn, mask: Uint8Array | null): Shape {
  return shape.kind === "mask" ? unpacked(shape, mask ?? Uint8Array.of(128)) : shape;
}

/** Anything that carries a shape, with the shape packed. */
export function packShapeOf<T extends { shape: Shape }>(carrier: T): Omit<T, "shape"> & { shape: StoredShape } {
  return { ...carrier, shape: packShape(carrier.shape) };
}

export function unpackShapeOf<T extends { shape: StoredShape }>(carrier: T): Omit<T, "shape"> & { shape: Shape } {
  return { ...carrier, shape: unpackShape(carrier.shape) };
}
