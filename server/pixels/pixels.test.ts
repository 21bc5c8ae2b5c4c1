import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { probe } from "./probe";
import { flipped, recipeOf, renderOne } from "../tests/recipes";
import { renderedExtension } from "./render";
import { thumbnail, thumbnailEdge } from "./thumbnail";

const upright = { width: 60, height: 40 };

/** 60 × 40, black, with one white block of 10 × 10 whose top left corner is at (x, y). */
function marked(x: number, y: number, { orientation = 1, width = 60, height = 40 } = {}): Promise<Buffer> {
  const raw = Buffer.alloc(width * height * 3);
  for (let dy = 0; dy < 10; dy++) raw.fill(255, ((y + dy) * width + x) * 3, ((y + dy) * width + x + 10) * 3);
  return sharp(raw, { raw: { width, height, channels: 3 } })
    .withMetadata({ orientation })
    .png()
    .toBuffer();
}

/** Where the bright block is: the box around pixels above half. */
async function found(bytes: Uint8Array): Promise<{ size: [number, number]; box: [number, number, number, number] }> {
  const { data, info } = await sharp(bytes).greyscale().raw().toBuffer({ resolveWithObject: true });
  const xs: number[] = [];
  const ys: number[] = [];
  for (let i = 0; i < info.width * info.height; i++) {
    if ((data[i * info.channels] as number) < 128) continue;
    xs.push(i % info.width);
    ys.push(Math.floor(i / info.width));
  }
  return {
    size: [info.width, info.height],
    box: [Math.min(...xs), Math.min(...ys), Math.max(...xs) + 1, Math.max(...ys) + 1],
  };
}

describe("render", () => {
  it("moves pixels where the labels go: flipped, then checked by hand", async () => {
    expect(await found(await renderOne(await marked(5, 6), recipeOf(upright, { warp: flipped(60) })))).toEqual({
      size: [60, 40],
      box: [45, 6, 55, 16],
    });
  });
  it("stretches to the size asked for", async () => {
    expect(
      await found(await renderOne(await marked(10, 20), recipeOf(upright, { resize: { width: 120, height: 40 } }))),
    ).toEqual({ size: [120, 40], box: [20, 20, 40, 30] });
  });
  it.each([
    ["rgb16", 3],
    ["b-w", 1],
  ] as const)("keeps the sixteen bits of %s, shrunk, enlarged and flipped", async (_, channels) => {
    const [width, height] = [60, 40];
    const values = Uint16Array.from({ length: width * height * channels }, () => 0x1234);
    const space = channels === 1 ? "grey16" : "rgb16";
    const png = await sharp(values, { raw: { width, height, channels } }).toColourspace(space).png().toBuffer();
    for (const resize of [upright, { width: 30, height: 20 }, { width: 90, height: 50 }]) {
      const out = await renderOne(png, recipeOf(upright, { resize, warp: flipped(resize.width) }));
      const { depth, channels: kept } = await sharp(out).metadata();
      expect([depth, kept]).toEqual(["ushort", channels]);
      const raw = await sharp(out).toColourspace(space).raw({ depth: "ushort" }).toBuffer();
      const pixels = new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2);
      // Resampling works in whole steps: a value may come out one off, 8 bits would be hundreds off.
      expect(Math.max(...pixels.map((value) => Math.abs(value - 0x1234)))).toBeLessThanOrEqual(2);
    }
  });
  it("keeps every point where the matrix says, shrinking and enlarging, to a twentieth of a pixel", async () => {
    const centroid = async (bytes: Uint8Array) => {
      const { data, info } = await sharp(bytes).greyscale().raw().toBuffer({ resolveWithObject: true });
      let [x, y, sum] = [0, 0, 0];
      for (let i = 0; i < info.width * info.height; i++) {
        const value = data[i * info.channels] as number;
        x += value * ((i % info.width) + 0.5);
        y += value * (Math.floor(i / info.width) + 0.5);
        sum += value;
      }
      return [x / sum, y / sum] as const;
    };
    for (const [width, height] of [
      [30, 20],
      [45, 40],
      [61, 41],
      [120, 40],
      [90, 20],
      [25, 95],
      [250, 170],
    ] as const) {
      const [x, y] = await centroid(
        await renderOne(await marked(10, 20), recipeOf(upright, { resize: { width, height } })),
      );
      expect(Math.abs(x - (15 * width) / 60), `${width} × ${height}`).toBeLessThan(0.05);
      expect(Math.abs(y - (25 * height) / 40), `${width} × ${height}`).toBeLessThan(0.05);
    }
  });
  it("sets the camera's eight ways of holding upright, and leaves no flag", async () => {
    // Where a block at (5, 6) of a 60 × 40 file appears once upright, by the published meaning of each orientation.
    const places: Record<number, [number, number]> = {
      1: [5, 6],
      2: [45, 6],
      3: [45, 24],
      4: [5, 24],
      5: [6, 5],
      6: [24, 5],
      7: [24, 45],
      8: [6, 45],
    };
    for (const [orientation, [x, y]] of Object.entries(places)) {
      const bytes = await marked(5, 6, { orientation: Number(orientation) });
      const size = Number(orientation) >= 5 ? [40, 60] : [60, 40];
      const [width, height] = size as [number, number];
      const out = await renderOne(bytes, recipeOf({ width, height }, { orientation: Number(orientation) }));
      expect(await found(out), `orientation ${orientation}`).toEqual({ size, box: [x, y, x + 10, y + 10] });
      expect((await sharp(out).metadata()).orientation ?? 1).toBe(1);
      const facts = await probe(bytes, 1e6);
      expect([facts.width, facts.height, facts.orientation]).toEqual([...size, Number(orientation)]);
    }
  });
  it("counts upright pixels when it turns, resizes and flips at once", async () => {
    const turned = { orientation: 6, resize: { width: 80, height: 60 }, warp: flipped(80) };
    const out = await renderOne(await marked(5, 6, { orientation: 6 }), recipeOf({ width: 40, height: 60 }, turned));
    // Upright at x 24…34 of 40: doubled 48…68, mirrored in 80: 12…32.
    expect(await found(out)).toEqual({ size: [80, 60], box: [12, 5, 32, 15] });
  });
  it("keeps the kind of file where it can be written well", () => {
    const changed = recipeOf(upright, { warp: flipped(60) });
    const same = { as: "same" } as const;
    expect(["jpg", "webp", "png", "tif", "gif"].map((kind) => renderedExtension(kind, changed, same))).toEqual([
      "jpg",
      "webp",
      "png",
      "png",
      "png",
    ]);
    expect(renderedExtension("tif", recipeOf(upright), same)).toBe("tif");
    expect(renderedExtension("tif", recipeOf(upright), { as: "jpg" })).toBe("jpg");
  });
});

describe("probe", () => {
  it("refuses what is no image, and what is too large, in a sentence", async () => {
    await expect(probe(new TextEncoder().encode("text"), 1e6)).rejects.toThrow(/not an image/);
    await expect(probe(await marked(1, 1), 2000)).rejects.toThrow(/60 × 40 pixels/);
    await expect(
      probe(new TextEncoder().encode('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'), 1e6),
    ).rejects.toThrow(/does not take/);
  });
});

describe("thumbnail", () => {
  it("is upright, no larger than its edge, and never enlarged", async () => {
    const large = await sharp({ create: { width: 1000, height: 500, channels: 3, background: "#852" } })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();
    const { width, height } = await sharp(await thumbnail(large, 1e7)).metadata();
    expect([width, height]).toEqual([thumbnailEdge / 2, thumbnailEdge]);
    const small = await sharp(await thumbnail(await marked(1, 1), 1e6)).metadata();
    expect([small.width, small.height]).toEqual([60, 40]);
  });
  it("refuses a picture that is cut off", async () => {
    const noise = Buffer.from(Array.from({ length: 200 * 100 * 3 }, (_, i) => (i * 7919) % 256));
    const whole = await sharp(noise, { raw: { width: 200, height: 100, channels: 3 } })
      .jpeg()
      .toBuffer();
    await expect(thumbnail(whole.subarray(0, whole.length / 2), 1e7)).rejects.toThrow(/cannot be decoded/);
  });
});
