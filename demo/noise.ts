/** Lattice noise: smooth, repeatable, cheap enough for every pixel. */

function lattice(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(seed, 0x9e3779b1);
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Value noise in 0…1, one feature a unit. */
export function noise(x: number, y: number, seed: number): number {
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const fx = x - x0;
  const fy = y - y0;
  const sx = fx * fx * (3 - 2 * fx);
  const sy = fy * fy * (3 - 2 * fy);
  const a = lattice(x0, y0, seed);
  const b = lattice(x0 + 1, y0, seed);
  const c = lattice(x0, y0 + 1, seed);
  const d = lattice(x0 + 1, y0 + 1, seed);
  return a + (b - a) * sx + (c - a) * sy + (a - b - c + d) * sx * sy;
}

/** Octaves of noise, each half as strong and twice as fine, in 0…1. */
export function fractal(x: number, y: number, seed: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  let total = 0;
  for (let i = 0; i < octaves; i++) {
    sum += weight * noise(x * 2 ** i, y * 2 ** i, seed + i * 101);
    total += weight;
    weight /= 2;
  }
  return sum / total;
}

/** Grain without neighbours, −0.5…0.5. */
export function grain(x: number, y: number, seed: number): number {
  return lattice(x, y, seed) - 0.5;
}

/** 0 below `from`, 1 above `to`, smooth between. */
export function smooth(from: number, to: number, value: number): number {
  const t = Math.min(1, Math.max(0, (value - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

export type Colour = readonly [number, number, number];

export function mix(a: Colour, b: Colour, share: number): Colour {
  return [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share];
}
