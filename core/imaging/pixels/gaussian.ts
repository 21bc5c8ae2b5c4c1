/** Gaussian smoothing of pixels, one side after the other; what lies beyond the picture is its edge. */
import type { ColourRaster } from "../ops/op";

/** Weights from the middle outwards that sum to 1 over both sides; cut where they fall below a thousandth. */
function gaussianWeights(sigma: number): Float32Array {
  const reach = Math.max(1, Math.ceil(3.7 * sigma));
  const weights = Float32Array.from({ length: reach + 1 }, (_, at) => Math.exp(-(at * at) / (2 * sigma * sigma)));
  const sum = weights.reduce((total, weight, at) => total + (at === 0 ? weight : 2 * weight), 0);
  return weights.map((weight) => weight / sum);
}

type Line = { start: number; step: number; length: number };

function smoothLine(from: Float32Array, to: Float32Array, { start, step, length }: Line, weights: Float32Array): void {
  const last = length - 1;
  for (let at = 0; at < length; at++) {
    let sum = (weights[0] as number) * (from[start + at * step] as number);
    for (let reach = 1; reach < weights.length; reach++) {
      const before = at - reach < 0 ? 0 : at - reach;
      const after = at + reach > last ? last : at + reach;
      sum +=
        (weights[reach] as number) * ((from[start + before * step] as number) + (from[start + after * step] as number));
    }
    to[start + at * step] = sum;
  }
}

/** The raster's numbers smoothed with deviation `sigma` in pixels, not rounded. */
export function smoothed({ data, width, height, channels }: ColourRaster, sigma: number): Float32Array {
  const weights = gaussianWeights(sigma);
  const levels = Float32Array.from(data);
  const across = new Float32Array(levels.length);
  for (let row = 0; row < height; row++)
    for (let channel = 0; channel < channels; channel++)
      smoothLine(levels, across, { start: row * width * channels + channel, step: channels, length: width }, weights);
  for (let column = 0; column < width * channels; column++)
    smoothLine(across, levels, { start: column, step: width * channels, length: height }, weights);
  return levels;
}

/** Writes levels into a raster, rounded and clipped; an alpha channel stays. */
export function writeLevels(raster: ColourRaster, levels: ArrayLike<number>): void {
  const { data, channels } = raster;
  for (let at = 0; at < data.length; at++) {
    if (channels === 4 && at % 4 === 3) continue;
    const value = levels[at] as number;
    data[at] = value <= 0 ? 0 : value >= 255 ? 255 : value + 0.5;
  }
}
