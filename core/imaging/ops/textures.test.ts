import { describe, expect, it } from "vitest";
import { Draws } from "../../model/seeded";
import { identity } from "../../geometry/transform";
import { sampleParts } from "../sampling/sample-parts";
import type { ColourRaster, PixelTools } from "./op";
import { patchOpNamed, textureOpNamed } from "./registry";

const tools: PixelTools = { compressed: () => Promise.reject(new Error("no codec here")) };
const flat = (level: number, width = 200, height = 100): ColourRaster => ({
  data: new Uint8Array(width * height * 3).fill(level),
  width,
  height,
  channels: 3,
});
const change = async (op: string, raster: ColourRaster, values: object, seed = 1) =>
  (await textureOpNamed(op).change(raster, values as never, seed, tools)).data;
const mean = (values: ArrayLike<number>) => Array.from(values).reduce((sum, value) => sum + value, 0) / values.length;
const deviation = (values: ArrayLike<number>) => {
  const middle = mean(values);
  return Math.sqrt(mean(Array.from(values, (value) => (value - middle) ** 2)));
};

describe("textures", () => {
  it("noise has the deviation asked for, on each channel apart or on all alike, the same by the same seed", async () => {
    const colour = await change("noise", flat(128), { sigma: 12, grain: "colour" });
    expect(Math.abs(deviation(colour) - 12)).toBeLessThan(0.3);
    expect(Math.abs(mean(colour) - 128)).toBeLessThan(0.3);
    expect(await change("noise", flat(128), { sigma: 12, grain: "colour" })).toEqual(colour);
    expect(await change("noise", flat(128), { sigma: 12, grain: "colour" }, 2)).not.toEqual(colour);
    const grey = await change("noise", flat(128), { sigma: 12, grain: "grey" });
    expect(grey.every((value, at) => value === grey[at - (at % 3)])).toBe(true);
  });
  it("speckle turns its share of the pixels, half of them black", async () => {
    const data = await change("speckle", flat(128), { share: 0.1 });
    const pixels = Array.from({ length: data.length / 3 }, (_, n) => data[n * 3] as number);
    expect(Math.abs(pixels.filter((value) => value === 0).length / pixels.length - 0.05)).toBeLessThan(0.01);
    expect(Math.abs(pixels.filter((value) => value === 255).length / pixels.length - 0.05)).toBeLessThan(0.01);
  });
  it("blur spreads an edge as its deviation says, and keeps the mean", async () => {
    const raster = flat(0, 120, 20);
    for (let at = 0; at < raster.data.length; at++) if (Math.floor(at / 3) % 120 >= 60) raster.data[at] = 200;
    const data = await change("blur", raster, { sigma: 4 });
    const line = Array.from({ length: 120 }, (_, x) => data[(10 * 120 + x) * 3] as number);
    // The edge is the normal distribution: one deviation above the middle 84.1% of the way.
    expect(Math.abs((line[64] as number) - 200 * 0.8697)).toBeLessThan(3);
    expect(Math.abs(mean(line) - 100)).toBeLessThan(1);
  });
  it("motion blur smears along its line alone", async () => {
    const dot = () => {
      const raster = flat(0, 41, 41);
      raster.data.fill(240, (20 * 41 + 20) * 3, (20 * 41 + 20) * 3 + 3);
      return raster;
    };
    const lit = async (degrees: number) => {
      const data = await change("motion-blur", dot(), { length: 8, degrees });
      return Array.from({ length: 41 * 41 }, (_, n) => n).filter((n) => (data[n * 3] as number) > 0);
    };
    expect((await lit(0)).map((n) => Math.floor(n / 41)).every((y) => y === 20)).toBe(true);
    expect((await lit(90)).map((n) => n % 41).every((x) => x === 20)).toBe(true);
    expect(await lit(0)).toHaveLength(8);
  });
  it("pixelate makes blocks of their mean, sharpen raises what blur lowers", async () => {
    const raster = flat(0, 8, 8);
    raster.data.forEach((_, at) => (raster.data[at] = Math.floor(at / 3) % 8 < 2 ? 100 : 0));
    const data = await change("pixelate", raster, { size: 4 });
    expect([data[0], data[3 * 3], data[4 * 3]]).toEqual([50, 50, 0]);
    const edge = flat(50, 20, 5);
    for (let at = 0; at < edge.data.length; at++) if (Math.floor(at / 3) % 20 >= 10) edge.data[at] = 150;
    const sharp = Array.from(await change("sharpen", edge, { amount: 1 }));
    expect(sharp.some((value) => value > 150)).toBe(true);
    expect(sharp.some((value) => value < 50)).toBe(true);
  });
  it("erase paints its places and nothing else, each of its share", () => {
    const erase = patchOpNamed("erase");
    const raster = flat(10);
    const size = { width: 200, height: 100 };
    const values = { count: 2, share: 0.05, fill: "#ff8000" } as never;
    const places = erase.places(values, size, [], new Draws("a"));
    for (const { x, y, width, height } of places) {
      expect(x >= 0 && y >= 0 && x + width <= 200 && y + height <= 100).toBe(true);
      expect(Math.abs((width * height) / 20_000 - 0.05)).toBeLessThan(0.01);
    }
    erase.change(raster, values, places, 1);
    raster.data.forEach((value, at) => {
      const [x, y] = [Math.floor(at / 3) % 200, Math.floor(at / 600)];
      const inside = places.some((box) => x >= box.x && y >= box.y && x < box.x + box.width && y < box.y + box.height);
      if (value !== (inside ? [255, 128, 0][at % 3] : 10)) throw new Error(`${x}, ${y}`);
    });
  });
});

describe("sampling", () => {
  it("shows beyond the picture what the plan says", () => {
    const raster: ColourRaster = {
      ...flat(0, 4, 4),
      data: Uint8Array.from({ length: 48 }, (_, at) => 10 * (Math.floor(at / 3) % 4)),
    };
    const shifted = (outside: string) =>
      sampleParts([{ raster, toFrame: [1, 0, 2, 0, 1, 0, 0, 0, 1] }], {
        frame: { width: 4, height: 4 },
        size: { width: 4, height: 4 },
        outside,
      });
    const line = (outside: string) => Array.from({ length: 4 }, (_, x) => shifted(outside).data[x * 3]);
    expect(line("edge")).toEqual([0, 0, 0, 10]);
    expect(line("mirror")).toEqual([10, 0, 0, 10]);
    expect(line("#c80000")).toEqual([200, 200, 0, 10]);
  });
  it("draws evenly: a range's tenths are met alike (chi-square, 9 degrees, p = 0.001 at 27.9)", () => {
    const tenths = new Array<number>(10).fill(0);
    const draws = new Draws("even", 7);
    for (let n = 0; n < 10_000; n++) tenths[Math.floor(draws.between(0, 10))]! += 1;
    const chi = tenths.reduce((sum, count) => sum + (count - 1000) ** 2 / 1000, 0);
    expect(chi).toBeLessThan(27.9);
    expect(
      sampleParts([{ raster: flat(7, 3, 3), toFrame: identity }], {
        frame: { width: 3, height: 3 },
        size: { width: 3, height: 3 },
        outside: "edge",
      }).data[0],
    ).toBe(7);
  });
});
