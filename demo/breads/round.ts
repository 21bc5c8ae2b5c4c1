/** Rolls, loaves and baguettes: domes with slashes. */
import { fractal, mix, noise, smooth, type Colour } from "../noise";
import { crust, radialOutline, type Bake, type BreadForm, type Surface } from "./bread";

type Slash = { x: number; y: number; angle: number; length: number; width: number };

function slashDepth(slashes: readonly Slash[], u: number, v: number, seed: number): number {
  let deepest = 0;
  for (const slash of slashes) {
    const du = u - slash.x;
    const dv = v - slash.y;
    const along = du * Math.cos(slash.angle) + dv * Math.sin(slash.angle);
    const across = -du * Math.sin(slash.angle) + dv * Math.cos(slash.angle) + Math.sin(along / 18 + seed) * 2;
    const share = Math.abs(along) / (slash.length / 2);
    if (share >= 1) continue;
    const width = slash.width * Math.sqrt(1 - share * share) * (0.85 + 0.3 * noise(along / 9, seed, seed));
    deepest = Math.max(deepest, 1 - smooth(width * 0.45, width, Math.abs(across)));
  }
  return deepest;
}

/** A dome over a superellipse of half axes `a`, `b`. */
function domed(
  a: number,
  b: number,
  power: number,
  rise: number,
  slashes: readonly Slash[],
  bake: Bake,
  seed: number,
): BreadForm {
  const surface = (u: number, v: number): Surface => {
    const wobble = 1 + 0.035 * (noise(Math.atan2(v, u) * 1.6 + 7, 3, seed) - 0.5) * 2;
    const radius = (Math.abs(u / (a * wobble)) ** power + Math.abs(v / (b * wobble)) ** power) ** (1 / power);
    const edge = (1 - radius) * Math.min(a, b);
    if (edge <= 0) return { edge, height: 0 };
    const dome = (1 - radius ** 2.3) ** 0.52;
    const torn = slashDepth(slashes, u, v, seed);
    const bumps = fractal(u / 15, v / 15, seed + 5, 3) - 0.5;
    return { edge, height: rise * (dome + bumps * 0.11 * dome - torn * 0.1) };
  };
  return {
    reach: { x: a * 1.08, y: b * 1.08 },
    surface,
    skin: (u, v, at) => {
      const torn = slashDepth(slashes, u, v, seed);
      const mottle = fractal(u / 22, v / 22, seed + 9, 4);
      const freckle = noise(u / 2.6, v / 2.6, seed + 31);
      const rim = smooth(0, Math.min(a, b) * 0.45, at.edge);
      const depth = Math.min(1, Math.max(0, 0.28 + (mottle - 0.5) * 1.15 + rim * 0.42 + (freckle > 0.8 ? 0.12 : 0)));
      const baked: Colour = crust(bake, depth);
      const crumb: Colour = mix([0.95, 0.83, 0.6], crust(bake, 0.2), bake === "dark" ? 0.5 : 0.3);
      const dusted = smooth(0.6, 0.8, fractal(u / 30 + 40, v / 30, seed + 77, 3)) * 0.34 * rim;
      const colour = mix(mix(baked, [0.95, 0.91, 0.83], dusted), crumb, torn * (0.62 + 0.2 * freckle));
      return { colour, gloss: (1 - torn) * (bake === "pale" ? 0.1 : 0.2) * (1 - dusted * 2) };
    },
    outline: () => radialOutline(surface, Math.max(a, b) * 1.3, a > 1.5 * b ? 72 : 48),
  };
}

export function roll(bake: Bake, seed: number): BreadForm {
  const turn = noise(seed, 1, 4) * Math.PI;
  const slashes = [0, Math.PI / 2].map((angle): Slash => ({ x: 0, y: 0, angle: angle + turn, length: 74, width: 10 }));
  return domed(58, 55, 2.05, 40, slashes, bake, seed);
}

export function loaf(bake: Bake, seed: number): BreadForm {
  const slashes = [-52, -8, 36].map((x, i): Slash => ({
    x: x + 8,
    y: (i - 1) * 3,
    angle: 1.12,
    length: 96,
    width: 15,
  }));
  return domed(108, 63, 2.7, 46, slashes, bake, seed);
}

export function baguette(bake: Bake, seed: number): BreadForm {
  const slashes = [-136, -88, -40, 8, 56, 104, 148].map((x): Slash => ({
    x: x - 4,
    y: 0,
    angle: 0.5,
    length: 68,
    width: 13,
  }));
  return domed(190, 34, 2.5, 30, slashes, bake, seed);
}
