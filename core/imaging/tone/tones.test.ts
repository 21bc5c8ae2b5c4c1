import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Effect } from "../ops/op";
import { toneOf, toneOps } from "../ops/tones";
import { applyTones } from "./apply-tones";
import { equalize, equalizeAdaptively, stretchContrast } from "./even-out";

type Colour = [number, number, number];
const effect = (op: string, values: Record<string, unknown> = {}): Effect => ({ op, values });

function after(colour: Colour, ...effects: Effect[]): number[] {
  const raster = { data: Uint8Array.from(colour), width: 1, height: 1, channels: 3 as const };
  applyTones(raster, effects.map(toneOf));
  return [...raster.data];
}

const near = (a: readonly number[], b: readonly number[]) =>
  a.every((value, at) => Math.abs(value - (b[at] as number)) <= 1);

describe("tone ops, worked out by the plan document's formulas", () => {
  it.each([
    // v + 255·0.2 = v + 51
    [effect("brightness", { by: 0.2 }), [10, 100, 240], [61, 151, 255]],
    // A stop more of the mid grey 188 (half the light) is white.
    [effect("exposure", { stops: 1 }), [0, 188, 255], [0, 255, 255]],
    // 255·(64/255)^(1/2) = 127.7
    [effect("gamma", { by: 2 }), [0, 64, 255], [0, 128, 255]],
    // 127.5 + 1.5·(v − 127.5)
    [effect("contrast", { by: 0.5 }), [100, 127, 200], [86, 127, 236]],
    // Y = 0.2126·200 + 0.7152·100 + 0.0722·50 = 117.65
    [effect("saturation", { by: -1 }), [200, 100, 50], [118, 118, 118]],
    [effect("saturation", { by: 0.5 }), [200, 100, 50], [241, 91, 16]],
    [effect("hue", { degrees: 120 }), [200, 100, 50], [50, 200, 100]],
    [effect("hue", { degrees: -60 }), [255, 0, 0], [255, 0, 255]],
    // R·1.125, B·0.875
    [effect("warmth", { by: 0.5 }), [100, 100, 100], [113, 100, 88]],
    [effect("grey"), [200, 100, 50], [118, 118, 118]],
    [effect("invert"), [0, 100, 255], [255, 155, 0]],
    // Five bits cleared: multiples of 32.
    [effect("posterize", { bits: 3 }), [31, 100, 255], [0, 96, 224]],
    [effect("solarize", { above: 128 }), [127, 128, 255], [127, 127, 0]],
  ] as [Effect, Colour, Colour][])("%j of %j", (op, from, to) => {
    expect(near(after(from, op), to), String(after(from, op))).toBe(true);
  });
  it("are all tried above", () => {
    expect(toneOps).toHaveLength(11);
  });
  it("are clipped after each, and not rounded between", () => {
    // Raised beyond white and lowered again: what was clipped stays lost.
    expect(after([200, 10, 10], effect("brightness", { by: 0.4 }), effect("brightness", { by: -0.4 }))).toEqual([
      153, 10, 10,
    ]);
    // 127.5 + 0.1 · 2.5 = 127.75, and ten times its distance is 2.5 again; rounded between it would be 5.
    expect(after([130, 130, 130], effect("contrast", { by: -0.9 }), effect("contrast", { by: 9 }))[0]).toBe(130);
  });
  it("folded into tables are what they are pixel by pixel", () => {
    const level = fc.integer({ min: 0, max: 255 });
    fc.assert(
      fc.property(level, level, level, fc.double({ min: -1, max: 1, noNaN: true }), (r, g, b, by) => {
        const folded = after([r, g, b], effect("brightness", { by }), effect("gamma", { by: 1.4 }));
        // A matrix that changes nothing keeps the tones from being folded.
        const apart = after(
          [r, g, b],
          effect("saturation", { by: 0 }),
          effect("brightness", { by }),
          effect("gamma", { by: 1.4 }),
        );
        expect(near(folded, apart)).toBe(true);
      }),
    );
  });
  it("act within a box alone, and leave transparency", () => {
    const raster = { data: new Uint8Array(4 * 4 * 4).fill(100), width: 4, height: 4, channels: 4 as const };
    applyTones(raster, [toneOf(effect("invert"))], { x: 1, y: 1, width: 2, height: 1 });
    const changed = Array.from({ length: 16 }, (_, n) => raster.data[n * 4]);
    expect(changed.map((value) => value === 155)).toEqual(Array.from({ length: 16 }, (_, n) => n === 5 || n === 6));
    expect(raster.data.filter((_, at) => at % 4 === 3).every((value) => value === 100)).toBe(true);
  });
});

describe("evening out", () => {
  const ramp = (low: number, high: number) => {
    const [width, height] = [128, 64];
    const data = new Uint8Array(width * height * 3);
    for (let at = 0; at < width * height; at++)
      data.fill(Math.round(low + ((high - low) * (at % width)) / width), at * 3, at * 3 + 3);
    return { data, width, height, channels: 3 as const };
  };
  const range = ({ data }: { data: Uint8Array }) => [Math.min(...data), Math.max(...data)];
  it("stretches the first to the last percentile over all levels", () => {
    const raster = ramp(100, 150);
    stretchContrast(raster);
    expect(range(raster)).toEqual([0, 255]);
  });
  it("spreads luma evenly: the median comes to the middle", () => {
    const raster = ramp(100, 150);
    equalize(raster);
    const sorted = [...raster.data].sort((a, b) => a - b);
    expect(Math.abs((sorted[sorted.length / 2] as number) - 128)).toBeLessThan(8);
    expect(range(raster)).toEqual([0, 255]);
  });
  it("by place raises local contrast, with a limit, and keeps a flat picture flat", () => {
    const raster = ramp(120, 130);
    equalizeAdaptively(raster);
    const [low, high] = range(raster) as [number, number];
    expect(high - low).toBeGreaterThan(10);
    const flat = ramp(90, 90);
    equalizeAdaptively(flat);
    const [least, most] = range(flat) as [number, number];
    expect(most - least).toBeLessThanOrEqual(1);
  });
});
