import type { Size } from "../model/item";
import type { Part, Shape } from "../model/shape";
import { simplifyRing } from "./simplify";
import { maskOutline } from "./trace";

/** A thumbnail's longer edge has some hundreds of pixels: what is off by less than half of one is not seen. */
const thumbnailPixels = 800;
/** Fewer numbers than this are drawn as they are. */
const fewNumbers = 24;

const rounded = (part: Part): Part => part.map((ring) => ring.map((value) => Math.round(value * 10) / 10));

/**
 * A shape as thumbnails draw it, on an image of `size` pixels: the outline of a mask, or of a polygon with many corners,
 * simplified to half a thumbnail's pixel; null where the shape is as short itself.
 */
export function thumbnailOutline(shape: Shape, { width, height }: Size): Shape | null {
  const tolerance = Math.max(width, height) / thumbnailPixels;
  if (shape.kind === "mask") return { kind: "polygon", parts: maskOutline(shape, tolerance).map(rounded) };
  if (shape.kind !== "polygon") return null;
  const numbers = shape.parts.reduce((sum, part) => sum + part.reduce((inner, ring) => inner + ring.length, 0), 0);
  if (numbers <= fewNumbers) return null;
  return {
    kind: "polygon",
    parts: shape.parts.map((part) => rounded(part.map((ring) => simplifyRing(ring, tolerance)))),
  };
}
