/** Proving baskets: one dough in a cane basket, under-proved, ready or over-proved. */
import sharp from "sharp";
import { fractal, mix, noise, smooth, type Colour } from "./noise";
import { Draws } from "./random";
import { develop } from "./render";

export const proofs = ["under", "ready", "over"] as const;
export type Proof = (typeof proofs)[number];
const size = { width: 480, height: 480 };

type Dough = { radius: number; rise: number; pores: number; slack: number };
const doughs: Record<Proof, Dough> = {
  under: { radius: 0.6, rise: 0.62, pores: 0.1, slack: 0.02 },
  ready: { radius: 0.8, rise: 0.9, pores: 0.3, slack: 0.03 },
  over: { radius: 0.99, rise: 0.55, pores: 0.85, slack: 0.075 },
};

/** Round blisters under the skin, one at most in each cell of a grid; 0…1. */
function blister(x: number, y: number, seed: number): number {
  let rise = 0;
  for (let dy = -1; dy <= 1; dy++) {
    for (let dx = -1; dx <= 1; dx++) {
      const cellX = Math.floor(x / 34) + dx;
      const cellY = Math.floor(y / 34) + dy;
      if (noise(cellX, cellY, seed + 90) < 0.45) continue;
      const radius = 5 + 13 * noise(cellX, cellY, seed + 93) ** 2;
      const share =
        Math.hypot(
          x - (cellX + noise(cellX, cellY, seed + 91)) * 34,
          y - (cellY + noise(cellX, cellY, seed + 92)) * 34,
        ) / radius;
      if (share < 1) rise = Math.max(rise, (1 - share * share) ** 1.5 * (radius / 13));
    }
  }
  return rise;
}

/** The picture as JPEG; the same seed and class always give the same one. */
export async function renderBasket(proof: Proof, seed: number): Promise<Uint8Array> {
  const draws = new Draws(seed, `basket ${proof}`);
  const { width, height } = size;
  const radius = draws.between(170, 196);
  const cx = width / 2 + draws.between(-18, 18);
  const cy = height / 2 + draws.between(-18, 18);
  const dough = doughs[proof];
  const doughRadius = radius * 0.83 * dough.radius * draws.between(0.965, 1.035);
  const dx0 = draws.between(-8, 8);
  const dy0 = draws.between(-8, 8);
  const phase = draws.between(0, 6.28);
  const light = {
    x: draws.between(-0.7, -0.3),
    y: draws.between(-0.7, -0.3),
    warmth: draws.between(0, 0.12),
    exposure: draws.between(0.9, 1.12),
    falloffX: draws.between(0.3, 0.6),
    falloffY: draws.between(0.3, 0.6),
  };
  const lamp = [light.x, light.y, 0.85] as const;
  const lampLength = Math.hypot(...lamp);

  /** Height above the table and what is there, at a pixel. */
  const at = (x: number, y: number): { height: number; part: "table" | "cane" | "dough"; edge: number } => {
    const bx = x - cx;
    const by = y - cy;
    const r = Math.hypot(bx, by);
    const angle = Math.atan2(by, bx);
    const ddx = bx - dx0;
    const ddy = by - dy0;
    const limit =
      doughRadius * (1 + dough.slack * (noise(Math.cos(angle) * 2 + 5, Math.sin(angle) * 2 + phase, seed) - 0.5) * 2);
    const share = Math.hypot(ddx, ddy) / limit;
    if (share < 1) {
      const dome = Math.sqrt(1 - share ** 2.6);
      const bubbles = blister(x, y, seed) * dough.pores * 9;
      return {
        height: 30 + dome * 58 * dough.rise + bubbles + (fractal(x / 24, y / 24, seed + 4, 3) - 0.5) * 5,
        part: "dough",
        edge: (1 - share) * limit,
      };
    }
    if (r < radius) {
      const turn = r / 12 + angle / (2 * Math.PI);
      const ridge = Math.abs(Math.sin(turn * Math.PI)) ** 0.7;
      const bowl = smooth(0.25, 1, r / radius) * 58;
      return { height: bowl + ridge * 7 + 0.7 * Math.sin(angle * r * 0.35), part: "cane", edge: radius - r };
    }
    return { height: 0, part: "table", edge: r - radius };
  };

  const colourAt = (x: number, y: number, spot: ReturnType<typeof at>): Colour => {
    const floured = fractal(x / 38, y / 38, seed + 12, 4);
    if (spot.part === "dough") {
      const rings = 0.5 + 0.5 * Math.cos((Math.hypot(x - cx - dx0, y - cy - dy0) / 12) * 2 * Math.PI + phase);
      const dusting = smooth(0.35, 0.75, floured) * (proof === "over" ? 0.3 : 0.62) * (0.5 + 0.5 * rings);
      const pore = smooth(0.7, 0.9, noise(x / 3.2, y / 3.2, seed + 15)) * dough.pores * 0.35;
      return mix(mix([0.89, 0.79, 0.62], [0.97, 0.95, 0.9], dusting), [0.66, 0.53, 0.37], pore);
    }
    if (spot.part === "cane") {
      const turn = Math.hypot(x - cx, y - cy) / 12 + Math.atan2(y - cy, x - cx) / (2 * Math.PI);
      const groove = 1 - Math.abs(Math.sin(turn * Math.PI));
      const grainy = noise(x / 4, y / 4, seed + 21);
      return mix(
        mix([0.76, 0.58, 0.36], [0.6, 0.42, 0.24], grainy * 0.6),
        [0.94, 0.91, 0.84],
        groove * smooth(0.3, 0.6, floured) * 0.75,
      );
    }
    const plank = fractal(x / 160, y / 7, 31, 3);
    const seam = smooth(1.6, 0.4, Math.abs(((y + 40) % 158) - 79));
    const dust = smooth(0.4, 0.95, floured) * 0.3 * (0.55 + 0.45 * noise(x / 1.6, y / 1.6, seed + 33));
    return mix(
      mix(mix([0.42, 0.29, 0.19], [0.29, 0.19, 0.12], plank), [0.1, 0.07, 0.05], seam),
      [0.85, 0.82, 0.77],
      dust,
    );
  };

  const heights = new Float32Array((width + 2) * (height + 2));
  const spots: ReturnType<typeof at>[] = new Array<ReturnType<typeof at>>((width + 2) * (height + 2));
  for (let y = -1; y <= height; y++) {
    for (let x = -1; x <= width; x++) {
      const index = (y + 1) * (width + 2) + x + 1;
      const spot = at(x + 0.5, y + 0.5);
      spots[index] = spot;
      heights[index] = spot.height;
    }
  }
  const canvas = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = (y + 1) * (width + 2) + x + 1;
      const spot = spots[index] as ReturnType<typeof at>;
      const sx = Math.max(-1.6, Math.min(1.6, ((heights[index + 1] as number) - (heights[index - 1] as number)) / 2));
      const sy = Math.max(
        -1.6,
        Math.min(1.6, ((heights[index + width + 2] as number) - (heights[index - width - 2] as number)) / 2),
      );
      const facing = (-sx * lamp[0] - sy * lamp[1] + lamp[2]) / (Math.hypot(sx, sy, 1) * lampLength);
      // A few steps towards the lamp tell whether something higher stands in its way.
      let hidden = 0;
      for (let step = 1; step <= 6; step++) {
        const px = Math.round(x + lamp[0] * step * 13);
        const py = Math.round(y + lamp[1] * step * 13);
        if (px < 0 || py < 0 || px >= width || py >= height) break;
        const above = (heights[(py + 1) * (width + 2) + px + 1] as number) - spot.height - step * 9;
        hidden = Math.max(hidden, smooth(0, 26, above));
      }
      const rim =
        spot.part === "table"
          ? 0.5 + 0.5 * smooth(0, 34, spot.edge)
          : spot.part === "dough"
            ? 0.62 + 0.38 * smooth(0, 14, spot.edge)
            : 1;
      const shade = (0.24 + 0.9 * Math.max(0, facing) * (1 - 0.62 * hidden)) * rim;
      const colour = colourAt(x, y, spot);
      for (let channel = 0; channel < 3; channel++)
        canvas[(y * width + x) * 3 + channel] = (colour[channel] as number) ** 2.2 * shade;
    }
  }
  const pixels = develop(canvas, width, height, seed, light);
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 88 })
    .toBuffer();
}
