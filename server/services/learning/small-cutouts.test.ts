import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { cutSmall } from "./small-cutouts";

/** A thumbnail of 200 × 100 whose left half is red and whose right half is blue, of an image four times as large. */
const pixels = {
  ...{ width: 200, height: 100, channels: 3 },
  data: Uint8Array.from({ length: 200 * 100 * 3 }, (_, at) => {
    const [x, channel] = [Math.floor(at / 3) % 200, at % 3];
    return channel === (x < 100 ? 0 : 2) ? 220 : 10;
  }),
};
const size = { width: 800, height: 400 };

describe("small cut-outs", () => {
  it("show each object with a little around it, at the thumbnail's scale, one picture for one place", async () => {
    const left = { x: 80, y: 80, width: 80, height: 40 };
    const right = { x: 440, y: 40, width: 320, height: 320 };
    const cutouts = await cutSmall(pixels, size, [
      { id: 1, ...left },
      { id: 2, ...right },
      { id: 3, ...left },
    ]);
    expect(cutouts.map(({ object }) => object)).toEqual([1, 2, 3]);
    expect(cutouts[2]?.picture).toBe(cutouts[0]?.picture);
    const shown = await Promise.all(
      cutouts.slice(0, 2).map(async ({ picture }) => {
        const { data, info } = await sharp(picture).removeAlpha().raw().toBuffer({ resolveWithObject: true });
        const middle = ((info.height >> 1) * info.width + (info.width >> 1)) * 3;
        return { size: [info.width, info.height], red: data[middle] ?? 0, blue: data[middle + 2] ?? 0 };
      }),
    );
    // 80 × 40 and 15 % of 80 on each side are 104 × 64: a quarter of that. Of the other, 408 × 400 lie on the picture: its
    // longer side is brought down to 64 pixels.
    expect(shown.map((one) => one.size)).toEqual([
      [26, 16],
      [64, 63],
    ]);
    expect((shown[0]?.red ?? 0) - (shown[0]?.blue ?? 0)).toBeGreaterThan(150);
    expect((shown[1]?.blue ?? 0) - (shown[1]?.red ?? 0)).toBeGreaterThan(150);
  });
  it("are made of so many places of an image and no more", async () => {
    const objects = Array.from({ length: 2300 }, (_, n) => ({ id: n, x: n % 700, y: n % 300, width: 8, height: 8 }));
    expect(new Set(objects.map(({ x, y }) => `${x} ${y}`)).size).toBe(2100);
    const cutouts = await cutSmall(pixels, size, objects);
    expect(cutouts.length).toBeGreaterThanOrEqual(2000);
    expect(new Set(cutouts.map(({ picture }) => picture)).size).toBe(2000);
  });
});
