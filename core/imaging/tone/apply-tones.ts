/**
 * Tones on pixels, in the order given: computed in real numbers, clipped to 0 … 255 after each, rounded once at the end.
 * Tones that keep channels apart fold into three tables of 256 levels; from the first that does not, pixels are worked
 * on a strip at a time in single precision.
 */
import type { Box } from "../../model/shape";
import type { ColourRaster } from "../ops/op";
import type { Tone } from "./tone";

const clip = (value: number) => (value < 0 ? 0 : value > 255 ? 255 : value);

type Apart = Extract<Tone, { kind: "channel" | "affine" }>;
const keepsApart = (tone: Tone): tone is Apart => tone.kind === "channel" || tone.kind === "affine";

function levelAfter(tone: Apart, level: number, channel: 0 | 1 | 2): number {
  return clip(tone.kind === "channel" ? tone.value(level) : level * tone.factor[channel] + tone.offset);
}

/** What each level of a channel becomes after all of these. */
function tableOf(tones: readonly Apart[], channel: 0 | 1 | 2): Float32Array {
  return Float32Array.from({ length: 256 }, (_, level) =>
    tones.reduce((value, tone) => levelAfter(tone, value, channel), level),
  );
}

/** Levels `r, g, b, r, …` with their hue turned. HSV after A. R. Smith, "Color Gamut Transform Pairs" (1978). */
function turnHue(levels: Float32Array, count: number, degrees: number): void {
  const turn = degrees / 60;
  for (let at = 0; at < count; at += 3) {
    const [r, g, b] = [levels[at], levels[at + 1], levels[at + 2]] as [number, number, number];
    const high = Math.max(r, g, b);
    const low = Math.min(r, g, b);
    const chroma = high - low;
    if (chroma === 0) continue;
    const hue = high === r ? (g - b) / chroma : high === g ? (b - r) / chroma + 2 : (r - g) / chroma + 4;
    const turned = (((hue + turn) % 6) + 6) % 6;
    const side = chroma * (1 - Math.abs((turned % 2) - 1));
    const sextant = Math.floor(turned);
    const first = sextant === 0 || sextant === 5 ? chroma : sextant === 1 || sextant === 4 ? side : 0;
    const second = sextant === 1 || sextant === 2 ? chroma : sextant === 0 || sextant === 3 ? side : 0;
    const third = sextant === 3 || sextant === 4 ? chroma : sextant === 2 || sextant === 5 ? side : 0;
    levels[at] = low + first;
    levels[at + 1] = low + second;
    levels[at + 2] = low + third;
  }
}

function mixChannels(levels: Float32Array, count: number, of: readonly number[]): void {
  const [a, b, c, d, e, f, g, h, i] = of as [number, number, number, number, number, number, number, number, number];
  for (let at = 0; at < count; at += 3) {
    const red = levels[at] as number;
    const green = levels[at + 1] as number;
    const blue = levels[at + 2] as number;
    levels[at] = clip(a * red + b * green + c * blue);
    levels[at + 1] = clip(d * red + e * green + f * blue);
    levels[at + 2] = clip(g * red + h * green + i * blue);
  }
}

function applyTo(levels: Float32Array, count: number, tone: Tone): void {
  if (tone.kind === "matrix") mixChannels(levels, count, tone.of);
  else if (tone.kind === "hue") turnHue(levels, count, tone.degrees);
  else if (tone.kind === "channel")
    for (let at = 0; at < count; at++) levels[at] = clip(tone.value(levels[at] as number));
  else {
    const { factor, offset } = tone;
    for (let at = 0; at < count; at += 3) {
      levels[at] = clip((levels[at] as number) * factor[0] + offset);
      levels[at + 1] = clip((levels[at + 1] as number) * factor[1] + offset);
      levels[at + 2] = clip((levels[at + 2] as number) * factor[2] + offset);
    }
  }
}

const stripPixels = 2048;

/** Changes the raster's colours, within a box of whole pixels where one is given; an alpha channel stays. */
export function applyTones(raster: ColourRaster, tones: readonly Tone[], within?: Box): void {
  if (tones.length === 0) return;
  const { data, width, height, channels } = raster;
  const box = within ?? { x: 0, y: 0, width, height };
  const split = tones.findIndex((tone) => !keepsApart(tone));
  const folded = (split < 0 ? tones : tones.slice(0, split)) as readonly Apart[];
  const rest = split < 0 ? [] : tones.slice(split);
  const [red, green, blue] = [tableOf(folded, 0), tableOf(folded, 1), tableOf(folded, 2)];
  if (rest.length === 0) {
    const rounded = [red, green, blue].map((table) => Uint8Array.from(table, Math.round)) as [
      Uint8Array,
      Uint8Array,
      Uint8Array,
    ];
    eachRow(box, width, channels, (from, to) => {
      for (let at = from; at < to; at += channels) {
        data[at] = rounded[0][data[at] as number] as number;
        data[at + 1] = rounded[1][data[at + 1] as number] as number;
        data[at + 2] = rounded[2][data[at + 2] as number] as number;
      }
    });
    return;
  }
  const levels = new Float32Array(stripPixels * 3);
  eachRow(box, width, channels, (from, to) => {
    for (let start = from; start < to; start += stripPixels * channels) {
      const end = Math.min(to, start + stripPixels * channels);
      let count = 0;
      for (let at = start; at < end; at += channels) {
        levels[count] = red[data[at] as number] as number;
        levels[count + 1] = green[data[at + 1] as number] as number;
        levels[count + 2] = blue[data[at + 2] as number] as number;
        count += 3;
      }
      for (const tone of rest) applyTo(levels, count, tone);
      count = 0;
      for (let at = start; at < end; at += channels) {
        data[at] = (levels[count] as number) + 0.5;
        data[at + 1] = (levels[count + 1] as number) + 0.5;
        data[at + 2] = (levels[count + 2] as number) + 0.5;
        count += 3;
      }
    }
  });
}

/** Calls `take` with the stretches of a box in the raster's numbers: one where it is as wide as the picture. */
function eachRow(box: Box, width: number, channels: number, take: (from: number, to: number) => void): void {
  if (box.x === 0 && box.width === width) {
    take(box.y * width * channels, (box.y + box.height) * width * channels);
    return;
  }
  for (let row = box.y; row < box.y + box.height; row++) {
    const from = (row * width + box.x) * channels;
    take(from, from + box.width * channels);
  }
}
