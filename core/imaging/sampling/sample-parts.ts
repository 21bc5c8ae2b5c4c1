/**
 * The one sampling: every pixel of an output is looked up once, through all maps in one, in pictures that were brought
 * near their final size by a filter that does not alias. Between pixels values are interpolated: linearly, or by cubics
 * where a picture is enlarged (R. G. Keys, IEEE ASSP 29, 1981, with a = −0.5).
 */
import { compose, identity, invert, isAffine, isIdentity, type Matrix } from "../../geometry/transform";
import type { Size } from "../../model/item";
import type { Box } from "../../model/shape";
import { parsedColour } from "../pixels/colour";
import type { Raster } from "../raster";
import type { Tone } from "../tone/tone";
import { fusedSample, isFusable } from "./fused-sample";
import { localScale } from "./local-scale";

/** A picture on the frame. `toFrame` goes from its pixels to the frame's; it fills `window`, or everything. */
export type SampledPart = { raster: Raster; toFrame: Matrix; window?: Box | undefined };

/** Enlargements beyond this are interpolated by cubics. */
const enlarging = 1.05;

type Beyond = { kind: "edge" } | { kind: "mirror" } | { kind: "colour"; levels: readonly number[] };

function beyondOf(outside: string, { data, channels }: Raster): Beyond {
  if (outside === "edge" || outside === "mirror") return { kind: outside };
  const scale = data instanceof Uint16Array ? 257 : 1;
  const [red, green, blue] = parsedColour(outside).map((level) => level * scale) as [number, number, number];
  const alpha = 255 * scale;
  const grey = Math.round(0.2126 * red + 0.7152 * green + 0.0722 * blue);
  const levels = channels < 3 ? [grey, alpha] : [red, green, blue, alpha];
  return { kind: "colour", levels };
}

/** A place in pixels folded back into 0 … length, as in a mirror at both ends. */
function reflected(place: number, length: number): number {
  const within = ((place % (2 * length)) + 2 * length) % (2 * length);
  return within > length ? 2 * length - within : within;
}

const clampTo = (value: number, most: number) => (value < 0 ? 0 : value > most ? most : value);

/** Values at any place of a raster, written one pixel after the other. */
class Sampler {
  private readonly data: Uint8Array | Uint16Array;
  private readonly width: number;
  private readonly height: number;
  private readonly channels: number;
  private readonly most: number;

  constructor(
    raster: Raster,
    private readonly beyond: Beyond,
  ) {
    this.data = raster.data;
    this.width = raster.width;
    this.height = raster.height;
    this.channels = raster.channels;
    this.most = raster.data instanceof Uint16Array ? 65_535 : 255;
  }

  /** The value of a channel of the pixel at whole places, or of what lies beyond. */
  private level(column: number, row: number, channel: number): number {
    if (this.beyond.kind === "colour" && (column < 0 || row < 0 || column >= this.width || row >= this.height))
      return this.beyond.levels[channel] as number;
    const x = clampTo(column, this.width - 1);
    const y = clampTo(row, this.height - 1);
    return this.data[(y * this.width + x) * this.channels + channel] as number;
  }

  /** Writes the pixel at continuous (x, y) to `out` from `at` on, interpolated linearly. */
  linear(x: number, y: number, out: Uint8Array | Uint16Array, at: number): void {
    const [u, v] = [x - 0.5, y - 0.5];
    const column = Math.floor(u);
    const row = Math.floor(v);
    const [fu, fv] = [u - column, v - row];
    for (let channel = 0; channel < this.channels; channel++) {
      const above = this.level(column, row, channel) * (1 - fu) + this.level(column + 1, row, channel) * fu;
      const below = this.level(column, row + 1, channel) * (1 - fu) + this.level(column + 1, row + 1, channel) * fu;
      out[at + channel] = above * (1 - fv) + below * fv + 0.5;
    }
  }

  /** The same by cubics. */
  cubic(x: number, y: number, out: Uint8Array | Uint16Array, at: number): void {
    const [u, v] = [x - 0.5, y - 0.5];
    const column = Math.floor(u);
    const row = Math.floor(v);
    const across = cubicWeights(u - column);
    const down = cubicWeights(v - row);
    for (let channel = 0; channel < this.channels; channel++) {
      let sum = 0;
      for (let j = 0; j < 4; j++) {
        let line = 0;
        for (let i = 0; i < 4; i++) line += (across[i] as number) * this.level(column + i - 1, row + j - 1, channel);
        sum += (down[j] as number) * line;
      }
      out[at + channel] = clampTo(sum + 0.5, this.most);
    }
  }

  /** Writes the pixel at continuous (x, y), what lies beyond settled first. */
  write(x: number, y: number, cubic: boolean, out: Uint8Array | Uint16Array, at: number): void {
    if (this.beyond.kind === "colour" && (x < -1 || y < -1 || x > this.width + 1 || y > this.height + 1)) {
      for (let channel = 0; channel < this.channels; channel++)
        out[at + channel] = this.beyond.levels[channel] as number;
      return;
    }
    const mirror = this.beyond.kind === "mirror";
    const px = mirror ? reflected(x, this.width) : x;
    const py = mirror ? reflected(y, this.height) : y;
    if (cubic) this.cubic(px, py, out, at);
    else this.linear(px, py, out, at);
  }
}

function cubicWeights(f: number): readonly [number, number, number, number] {
  const [f2, f3] = [f * f, f * f * f];
  return [-0.5 * f3 + f2 - 0.5 * f, 1.5 * f3 - 2.5 * f2 + 1, -1.5 * f3 + 2 * f2 + 0.5 * f, 0.5 * f3 - 0.5 * f2];
}

function blank({ width, height }: Size, like: Raster): Raster {
  const length = width * height * like.channels;
  const data = like.data instanceof Uint16Array ? new Uint16Array(length) : new Uint8Array(length);
  return { data, width, height, channels: like.channels };
}

function sampleOne({ raster, toFrame }: SampledPart, warp: Matrix, out: Raster, outside: string): void {
  const map = compose(toFrame, warp);
  if (isIdentity(map) && raster.width === out.width && raster.height === out.height) {
    out.data.set(raster.data);
    return;
  }
  const back = invert(map);
  const scale = localScale(map, raster);
  const cubic = Math.max(scale.x, scale.y) > enlarging;
  const sampler = new Sampler(raster, beyondOf(outside, raster));
  const [a, b, c, d, e, f, g, h, i] = back;
  for (let row = 0; row < out.height; row++) {
    const y = row + 0.5;
    for (let column = 0; column < out.width; column++) {
      const x = column + 0.5;
      const w = g * x + h * y + i;
      const at = (row * out.width + column) * out.channels;
      sampler.write((a * x + b * y + c) / w, (d * x + e * y + f) / w, cubic, out.data, at);
    }
  }
}

/** Several parts, each in its window of the frame; a place beyond the frame belongs to the nearest window. */
function sampleSeveral(parts: readonly SampledPart[], frame: Size, warp: Matrix, out: Raster, outside: string): void {
  const toFrame = invert(warp);
  const prepared = parts.map((part) => {
    const map = compose(part.toFrame, warp);
    const scale = localScale(map, part.raster);
    return {
      window: part.window ?? { x: 0, y: 0, ...frame },
      back: invert(map),
      cubic: Math.max(scale.x, scale.y) > enlarging,
      sampler: new Sampler(part.raster, beyondOf(outside, part.raster)),
    };
  });
  const beyond = beyondOf(outside, out);
  for (let row = 0; row < out.height; row++)
    for (let column = 0; column < out.width; column++) {
      const [x, y] = [column + 0.5, row + 0.5];
      const [fx, fy] = applied(toFrame, x, y);
      const at = (row * out.width + column) * out.channels;
      if (beyond.kind === "colour" && (fx < 0 || fy < 0 || fx > frame.width || fy > frame.height)) {
        for (let channel = 0; channel < out.channels; channel++)
          out.data[at + channel] = beyond.levels[channel] as number;
        continue;
      }
      const [nx, ny] =
        beyond.kind === "mirror"
          ? [reflected(fx, frame.width), reflected(fy, frame.height)]
          : [clampTo(fx, frame.width - 1e-6), clampTo(fy, frame.height - 1e-6)];
      const part = prepared.find(
        ({ window }) =>
          nx >= window.x && ny >= window.y && nx < window.x + window.width && ny < window.y + window.height,
      );
      if (!part) continue;
      // Beyond the frame the place it stands for is looked up instead.
      const [ox, oy] = nx === fx && ny === fy ? [x, y] : applied(warp, nx, ny);
      const [sx, sy] = applied(part.back, ox, oy);
      part.sampler.write(sx, sy, part.cubic, out.data, at);
    }
}

function applied([a, b, c, d, e, f, g, h, i]: Matrix, x: number, y: number): [number, number] {
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

/**
 * The same with tones after it, where both can be done in one pass; null where they cannot. See fused-sample.ts.
 */
export function sampleToned(
  parts: readonly SampledPart[],
  { warp = identity, size, outside }: { warp?: Matrix; size: Size; outside: string },
  tones: readonly Tone[],
): Raster | null {
  const [first, ...others] = parts;
  if (!first || others.length > 0 || first.window || outside !== "edge" || !tones.every(isFusable)) return null;
  const { raster, toFrame } = first;
  const map = compose(toFrame, warp);
  if (!isAffine(map) || raster.channels !== 3) return null;
  const scale = localScale(map, raster);
  if (Math.max(scale.x, scale.y) > enlarging) return null;
  const data = fusedSample(raster, invert(map), size, tones);
  return data && { data, width: size.width, height: size.height, channels: 3 };
}

/**
 * Pictures on a frame, the frame warped onto an output of `size`: the output's pixels. All rasters have the same channels
 * and depth. `outside` is what is seen beyond them: edge, mirror or a colour.
 */
export function sampleParts(
  parts: readonly SampledPart[],
  { frame, warp = identity, size, outside }: { frame: Size; warp?: Matrix; size: Size; outside: string },
): Raster {
  const [first, ...others] = parts;
  if (!first) throw new RangeError("there is nothing to sample");
  const out = blank(size, first.raster);
  if (others.length === 0 && !first.window) sampleOne(first, warp, out, outside);
  else sampleSeveral(parts, frame, warp, out, outside);
  return out;
}
