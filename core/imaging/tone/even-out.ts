/** Evening out of contrast over a whole picture, by the distribution of its own levels. */
import type { ColourRaster } from "../ops/op";
import { lumaShares } from "./luma";

const [redShare, greenShare, blueShare] = lumaShares;

function bump(counts: Uint32Array | Float64Array, level: number): void {
  counts[level] = (counts[level] as number) + 1;
}

function pixelCount({ width, height }: ColourRaster): number {
  return width * height;
}

/** Each channel from its 1st to its 99th percentile onto 0 … 255. */
export function stretchContrast(raster: ColourRaster): void {
  const { data, channels } = raster;
  for (let channel = 0; channel < 3; channel++) {
    const counts = new Uint32Array(256);
    for (let at = channel; at < data.length; at += channels) bump(counts, data[at] as number);
    const low = percentile(counts, pixelCount(raster), 0.01);
    const high = percentile(counts, pixelCount(raster), 0.99);
    if (high <= low) continue;
    const table = Uint8ClampedArray.from({ length: 256 }, (_, level) => ((level - low) * 255) / (high - low));
    for (let at = channel; at < data.length; at += channels) data[at] = table[data[at] as number] as number;
  }
}

/** The least level that so large a share of the pixels does not exceed. */
function percentile(counts: Uint32Array, pixels: number, share: number): number {
  let below = 0;
  for (let level = 0; level < 256; level++) {
    below += counts[level] as number;
    if (below >= share * pixels) return level;
  }
  return 255;
}

function lumaOf(data: Uint8Array, at: number): number {
  return redShare * (data[at] as number) + greenShare * (data[at + 1] as number) + blueShare * (data[at + 2] as number);
}

/** Moves a pixel's three channels by the same amount, which changes its luma by that and keeps its colour. */
function raise(data: Uint8Array, at: number, by: number): void {
  for (let channel = at; channel < at + 3; channel++) {
    const value = (data[channel] as number) + by;
    data[channel] = value < 0 ? 0 : value > 255 ? 255 : value + 0.5;
  }
}

/** Luma spread evenly over all levels. Gonzalez & Woods, "Digital Image Processing", 3.3.1. */
export function equalize(raster: ColourRaster): void {
  const { data, channels } = raster;
  const counts = new Uint32Array(256);
  for (let at = 0; at < data.length; at += channels) bump(counts, Math.round(lumaOf(data, at)));
  const table = spreadTable(counts, pixelCount(raster));
  for (let at = 0; at < data.length; at += channels) {
    const luma = Math.round(lumaOf(data, at));
    raise(data, at, (table[luma] as number) - luma);
  }
}

/** Of each level the share of pixels up to it, stretched so that the first level that occurs becomes 0. */
function spreadTable(counts: Uint32Array, pixels: number): Float32Array {
  const first = counts.find((count) => count > 0) ?? 0;
  let sum = 0;
  return Float32Array.from(counts, (count, level) => {
    sum += count;
    return pixels > first ? (255 * Math.max(0, sum - first)) / (pixels - first) : level;
  });
}

const tilesASide = 8;
const clipLimit = 2;

/**
 * Contrast-limited adaptive equalization of luma: 8 × 8 tiles, counts cut at twice their mean, what is cut spread over all
 * levels, tables interpolated between tiles. K. Zuiderveld, "Contrast Limited Adaptive Histogram Equalization", Graphics
 * Gems IV (1994).
 */
export function equalizeAdaptively(raster: ColourRaster): void {
  const { data, width, height, channels } = raster;
  const edges = (side: number) => Array.from({ length: tilesASide + 1 }, (_, n) => Math.round((n * side) / tilesASide));
  const [columns, rows] = [edges(width), edges(height)];
  const tables: Float32Array[] = [];
  for (let row = 0; row < tilesASide; row++)
    for (let column = 0; column < tilesASide; column++) {
      const counts = new Float64Array(256);
      let pixels = 0;
      for (let y = rows[row] as number; y < (rows[row + 1] as number); y++)
        for (let x = columns[column] as number; x < (columns[column + 1] as number); x++) {
          bump(counts, Math.round(lumaOf(data, (y * width + x) * channels)));
          pixels++;
        }
      tables.push(limitedTable(counts, pixels));
    }
  const places = (side: number) =>
    Array.from({ length: side }, (_, at) => {
      const place = Math.min(tilesASide - 1, Math.max(0, ((at + 0.5) * tilesASide) / side - 0.5));
      const first = Math.min(tilesASide - 2, Math.floor(place));
      return { first, share: place - first };
    });
  const [across, down] = [places(width), places(height)];
  for (let y = 0; y < height; y++) {
    const { first: row, share: v } = down[y] as { first: number; share: number };
    for (let x = 0; x < width; x++) {
      const { first: column, share: u } = across[x] as { first: number; share: number };
      const at = (y * width + x) * channels;
      const luma = Math.round(lumaOf(data, at));
      const table = (r: number, c: number) => (tables[r * tilesASide + c] as Float32Array)[luma] as number;
      const above = table(row, column) * (1 - u) + table(row, column + 1) * u;
      const below = table(row + 1, column) * (1 - u) + table(row + 1, column + 1) * u;
      raise(data, at, above * (1 - v) + below * v - luma);
    }
  }
}

function limitedTable(counts: Float64Array, pixels: number): Float32Array {
  if (pixels === 0) return Float32Array.from({ length: 256 }, (_, level) => level);
  const limit = Math.max(1, (clipLimit * pixels) / 256);
  let cut = 0;
  for (let level = 0; level < 256; level++) {
    const over = Math.max(0, (counts[level] as number) - limit);
    counts[level] = (counts[level] as number) - over;
    cut += over;
  }
  let sum = 0;
  return Float32Array.from(counts, (count) => (255 * (sum += count + cut / 256)) / pixels);
}
