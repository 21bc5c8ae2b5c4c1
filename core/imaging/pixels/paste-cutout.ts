/** An object cut out of one picture along its outline and laid over another, its edge feathered by a pixel. */
import { boundsOfPoints } from "../../geometry/box";
import { paintPolygon } from "../../geometry/rasterise";
import { compose, invert, mapPoints, translation, type Matrix } from "../../geometry/transform";
import type { Part } from "../../model/shape";
import type { ColourRaster } from "../ops/op";
import type { Raster } from "../raster";
import { sampleParts } from "../sampling/sample-parts";

/** Pixels around the outline that its feathered edge may reach. */
const margin = 2;

/**
 * Lays the object on `raster`. `donor` holds the pixels around it, `toOutput` goes from these to the raster's; `outline`
 * is in the raster's pixels.
 */
export function pasteCutout(raster: ColourRaster, donor: Raster, toOutput: Matrix, outline: readonly Part[]): void {
  const bounds = boundsOfPoints(outline.flatMap((part) => part[0] ?? []));
  if (!bounds) return;
  const left = Math.max(0, Math.floor(bounds.x) - margin);
  const top = Math.max(0, Math.floor(bounds.y) - margin);
  const width = Math.min(raster.width, Math.ceil(bounds.x + bounds.width) + margin) - left;
  const height = Math.min(raster.height, Math.ceil(bounds.y + bounds.height) + margin) - top;
  if (width <= 0 || height <= 0) return;
  const shift = translation(-left, -top);
  const inside = new Uint8Array(width * height);
  paintPolygon(
    inside,
    outline.map((part) => part.map((ring) => mapPoints(shift, ring))),
    width,
    height,
  );
  const window = { width, height };
  const pixels = sampleParts([{ raster: donor, toFrame: compose(toOutput, shift) }], {
    frame: window,
    size: window,
    outside: "edge",
  });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const share = feathered(inside, width, height, x, y);
      if (share === 0) continue;
      const from = (y * width + x) * pixels.channels;
      const to = ((y + top) * raster.width + x + left) * raster.channels;
      for (let channel = 0; channel < 3; channel++) {
        const over = pixels.data[from + channel] as number;
        const under = raster.data[to + channel] as number;
        raster.data[to + channel] = under + share * (over - under) + 0.5;
      }
    }
}

/** The share of the nine pixels around a place that are inside. */
function feathered(inside: Uint8Array, width: number, height: number, x: number, y: number): number {
  let sum = 0;
  for (let row = Math.max(0, y - 1); row <= Math.min(height - 1, y + 1); row++)
    for (let column = Math.max(0, x - 1); column <= Math.min(width - 1, x + 1); column++)
      sum += inside[row * width + column] as number;
  return sum / 9;
}

/** The map from an upright picture to an output, for pixels that were cut out of it at (x, y) and scaled. */
export function fromCut(matrix: Matrix, cut: { x: number; y: number }, scale: Matrix): Matrix {
  return compose(compose(invert(scale), translation(cut.x, cut.y)), matrix);
}
