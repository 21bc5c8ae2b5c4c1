import { affine, centred, type Matrix } from "@larder/core/geometry/transform";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { recipeOf, renderOne } from "../tests/recipes";

const side = 1024;
const shrunk = 256;

/**
 * A zone plate: waves around the middle whose frequency grows with the distance r to r / side cycles a pixel, half a cycle
 * at the middle of an edge.
 */
function zonePlate(): Promise<Buffer> {
  const data = new Uint8Array(side * side * 3);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const r2 = (x - side / 2 + 0.5) ** 2 + (y - side / 2 + 0.5) ** 2;
      data.fill(127.5 + 127.5 * Math.cos((Math.PI * r2) / side), (y * side + x) * 3, (y * side + x) * 3 + 3);
    }
  return sharp(data, { raw: { width: side, height: side, channels: 3 } })
    .png()
    .toBuffer();
}

/** The variance of levels between two distances from the middle, in pixels of the output. */
function energy(levels: Uint8Array, from: number, to: number): number {
  let [sum, squares, count] = [0, 0, 0];
  for (let y = 0; y < shrunk; y++)
    for (let x = 0; x < shrunk; x++) {
      const r = Math.hypot(x - shrunk / 2 + 0.5, y - shrunk / 2 + 0.5);
      if (r < from || r >= to) continue;
      const level = levels[(y * shrunk + x) * 3] as number;
      sum += level;
      squares += level * level;
      count++;
    }
  return squares / count - (sum / count) ** 2;
}

const size = { width: side, height: side };
const small = { width: shrunk, height: shrunk };
const turn = centred(affine(Math.cos(0.3), Math.sin(0.3), -Math.sin(0.3), Math.cos(0.3), 0, 0), 128, 128);
const ways: [string, { warp?: Matrix; outside?: string }][] = [
  ["as it stands", {}],
  ["and turned in the fused pass", { warp: turn }],
  ["and turned with a mirror beyond", { warp: turn, outside: "mirror" }],
  ["and warped in perspective", { warp: [1, 0.02, 0, 0.01, 1, 0, 0.0001, 0.0001, 1], outside: "mirror" }],
];

describe("a zone plate shrunk to a quarter", () => {
  it.each(ways)("%s keeps the waves that its pixels can carry and holds none of those they cannot", async (_, way) => {
    const plate = await zonePlate();
    const shown = await renderOne(plate, recipeOf(size, { resize: small, ...way }));
    const { data } = await sharp(shown).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    // A wave of half a cycle an output pixel lies 32 output pixels from the middle.
    const kept = energy(data, 0, 20);
    expect(kept).toBeGreaterThan(4000);
    expect(energy(data, 50, 110) / kept).toBeLessThan(0.01);
    // Without a filter both would be alike.
    const bare = await sharp(plate).resize(shrunk, shrunk, { kernel: "nearest" }).raw().toBuffer();
    expect(energy(bare, 50, 110) / energy(bare, 0, 20)).toBeGreaterThan(0.5);
  });
});
