/**
 * What a picture, or a part of it, looks like, as 128 bytes: how its colours are spread, which way its edges run and what
 * its texture is. Near features mean that two look alike; they tell nothing about what is on a picture.
 */
import type { Box } from "../model/shape";

export const featureLength = 128;

/** Pixels, rows of `channels` bytes: 1 grey, 2 grey and alpha, 3 RGB, 4 RGB and alpha; alpha does not count. */
export type Pixels = { data: Uint8Array; width: number; height: number; channels: number };

/** Every part is looked at on so many spots each way, whatever its size. */
const edge = 32;
/** Each spot is the mean of so many pixels each way at most. */
const sampledAcross = 2;

const hues = 11;
const levels = 4;
const orientations = 9;
const textures = 10;
const cells = 2;

const colourAt = 0;
const gradientAt = colourAt + levels * (hues + 1);
const textureAt = gradientAt + cells * cells * orientations;
const formAt = textureAt + cells * cells * textures;

type Spots = { red: Float32Array; green: Float32Array; blue: Float32Array; grey: Float32Array };

/** Where along one edge (`length` pixels from `start`) the samples lie, clipped to `limit` pixels, times `stride`. */
function samplesAlong(start: number, length: number, limit: number, stride: number): Int32Array {
  return Int32Array.from({ length: edge * sampledAcross }, (_, n) => {
    const place = Math.floor(start + ((n + 0.5) / (edge * sampledAcross)) * length);
    return Math.min(limit - 1, Math.max(0, place)) * stride;
  });
}

/** The part of a picture in `box` (pixels) as 32 × 32 spots, each the mean of some of its pixels. */
function spotsOf({ data, width, height, channels }: Pixels, box: Box): Spots {
  const count = edge * edge;
  const spots = {
    red: new Float32Array(count),
    green: new Float32Array(count),
    blue: new Float32Array(count),
    grey: new Float32Array(count),
  };
  const columns = samplesAlong(box.x, box.width, width, channels);
  const rows = samplesAlong(box.y, box.height, height, width * channels);
  const [second, third] = channels >= 3 ? [1, 2] : [0, 0];
  const share = 1 / (255 * sampledAcross * sampledAcross);
  for (let row = 0; row < edge; row++) {
    for (let column = 0; column < edge; column++) {
      let [red, green, blue] = [0, 0, 0];
      for (let down = row * sampledAcross; down < (row + 1) * sampledAcross; down++) {
        const line = rows[down] as number;
        for (let across = column * sampledAcross; across < (column + 1) * sampledAcross; across++) {
          const at = line + (columns[across] as number);
          red += data[at] as number;
          green += data[at + second] as number;
          blue += data[at + third] as number;
        }
      }
      const spot = row * edge + column;
      spots.red[spot] = red * share;
      spots.green[spot] = green * share;
      spots.blue[spot] = blue * share;
      // Brightness as of Recommendation ITU-R BT.601.
      spots.grey[spot] = (0.299 * red + 0.587 * green + 0.114 * blue) * share;
    }
  }
  return spots;
}

/**
 * Colours by hue and brightness (A. R. Smith, "Color gamut transform pairs", 1978): for each of four levels of brightness
 * one bin for what has no colour and eleven round the circle of hues.
 */
function addColours(sums: Float32Array, { red, green, blue }: Spots): void {
  for (let spot = 0; spot < edge * edge; spot++) {
    const [r, g, b] = [red[spot] as number, green[spot] as number, blue[spot] as number];
    const [most, least] = [Math.max(r, g, b), Math.min(r, g, b)];
    const spread = most - least;
    const saturation = most === 0 ? 0 : spread / most;
    const hue =
      spread === 0
        ? 0
        : most === r
          ? ((g - b) / spread + 6) % 6
          : most === g
            ? (b - r) / spread + 2
            : (r - g) / spread + 4;
    const level = most * (levels - 1);
    const around = (hue / 6) * hues;
    const [first, share] = [Math.floor(around) % hues, around - Math.floor(around)];
    addAtLevel(sums, 0, level, 1 - saturation);
    addAtLevel(sums, 1 + first, level, saturation * (1 - share));
    addAtLevel(sums, 1 + ((first + 1) % hues), level, saturation * share);
  }
}

/** Adds to one bin of hue at the two levels of brightness that are nearest. */
function addAtLevel(sums: Float32Array, bin: number, level: number, weight: number): void {
  const low = Math.min(levels - 1, Math.floor(level));
  const high = Math.min(levels - 1, low + 1);
  const share = level - low;
  const [lower, upper] = [colourAt + low * (hues + 1) + bin, colourAt + high * (hues + 1) + bin];
  sums[lower] = (sums[lower] as number) + weight * (1 - share);
  sums[upper] = (sums[upper] as number) + weight * share;
}

const cellOf = (row: number, column: number) =>
  Math.floor((row * cells) / edge) * cells + Math.floor((column * cells) / edge);

/**
 * Which way brightness changes, by strength, in four quarters (N. Dalal and B. Triggs, "Histograms of oriented gradients
 * for human detection", 2005); a direction and its opposite count as one.
 */
function addGradients(sums: Float32Array, { grey }: Spots): void {
  for (let row = 1; row < edge - 1; row++) {
    for (let column = 1; column < edge - 1; column++) {
      const spot = row * edge + column;
      const across = (grey[spot + 1] as number) - (grey[spot - 1] as number);
      const down = (grey[spot + edge] as number) - (grey[spot - edge] as number);
      const strength = Math.sqrt(across * across + down * down);
      if (strength === 0) continue;
      const turn = ((Math.atan2(down, across) + Math.PI) / Math.PI) % 1;
      const place = turn * orientations;
      const [first, share] = [Math.floor(place) % orientations, place - Math.floor(place)];
      const from = gradientAt + cellOf(row, column) * orientations;
      const next = from + ((first + 1) % orientations);
      sums[from + first] = (sums[from + first] as number) + strength * (1 - share);
      sums[next] = (sums[next] as number) + strength * share;
    }
  }
}

/** For the 256 patterns of eight neighbours: how many are brighter, or 9 where they change more than twice around. */
const patterns = Uint8Array.from({ length: 256 }, (_, pattern) => {
  let [ones, changes] = [0, 0];
  for (let bit = 0; bit < 8; bit++) {
    const [here, next] = [(pattern >> bit) & 1, (pattern >> ((bit + 1) % 8)) & 1];
    ones += here;
    if (here !== next) changes++;
  }
  return changes <= 2 ? ones : textures - 1;
});

const around = [-edge - 1, -edge, -edge + 1, 1, edge + 1, edge, edge - 1, -1];
/** Smaller differences are noise of the file, not texture. */
const noise = 3 / 255;

/** Local binary patterns that do not change with turning, in four quarters (T. Ojala and others, 2002). */
function addTextures(sums: Float32Array, { grey }: Spots): void {
  for (let row = 1; row < edge - 1; row++) {
    for (let column = 1; column < edge - 1; column++) {
      const spot = row * edge + column;
      const own = (grey[spot] as number) + noise;
      let pattern = 0;
      for (let bit = 0; bit < 8; bit++)
        if ((grey[spot + (around[bit] as number)] as number) >= own) pattern |= 1 << bit;
      const at = textureAt + cellOf(row, column) * textures + (patterns[pattern] as number);
      sums[at] = (sums[at] as number) + 1;
    }
  }
}

/**
 * Shares of a histogram as the roots that make their distance Hellinger's; one that is all zero stays so. `rest` is what
 * counts beside it: little next to that leaves all shares small.
 */
function writeShares(features: Uint8Array, sums: Float32Array, from: number, to: number, rest = 0): void {
  let total = rest;
  for (let at = from; at < to; at++) total += sums[at] as number;
  if (total === 0) return;
  for (let at = from; at < to; at++) features[at] = Math.round(255 * Math.sqrt((sums[at] as number) / total));
}

/** What edges come to on a picture that is flat but for noise: five levels of 255 on each spot. */
const faintEdges = (5 / 255) * edge * edge;

const unit = (value: number) => Math.round(255 * Math.max(0, Math.min(1, value)));

/**
 * Features of what lies in `box` (pixels, the frame of `pixels`): 48 bytes of colour, 36 of gradients, 40 of texture, and
 * four of proportion, size, brightness and contrast. A box without area gives zeros.
 */
export function featuresOf(pixels: Pixels, box: Box): Uint8Array {
  const features = new Uint8Array(featureLength);
  if (!(box.width > 0 && box.height > 0) || pixels.width === 0 || pixels.height === 0) return features;
  const spots = spotsOf(pixels, box);
  const sums = new Float32Array(featureLength);
  addColours(sums, spots);
  addGradients(sums, spots);
  addTextures(sums, spots);
  writeShares(features, sums, colourAt, gradientAt);
  writeShares(features, sums, gradientAt, textureAt, faintEdges);
  writeShares(features, sums, textureAt, formAt);
  const mean = spots.grey.reduce((sum, value) => sum + value, 0) / spots.grey.length;
  const variance = spots.grey.reduce((sum, value) => sum + (value - mean) ** 2, 0) / spots.grey.length;
  // An eighth to eight times as wide as high; from a 4096th of the picture to all of it.
  features[formAt] = unit((Math.log2(box.width / box.height) + 3) / 6);
  features[formAt + 1] = unit(Math.log2((box.width * box.height) / (pixels.width * pixels.height)) / 12 + 1);
  features[formAt + 2] = unit(mean);
  features[formAt + 3] = unit(2 * Math.sqrt(variance));
  return features;
}

/** How different two features are: 0 the same, 1 about as different as can be. Each begins at a place in its bytes. */
export function featureDistance(one: Uint8Array, oneAt: number, other: ArrayLike<number>, otherAt: number): number {
  let sum = 0;
  for (let n = 0; n < featureLength; n++) {
    const difference = (one[oneAt + n] as number) - (other[otherAt + n] as number);
    sum += difference * difference;
  }
  return Math.sqrt(sum) / farthest;
}

/** As far as features can be apart: three histograms that share nothing, and four numbers at opposite ends. */
export const farthest = 255 * Math.sqrt(3 * 2 + 4);
