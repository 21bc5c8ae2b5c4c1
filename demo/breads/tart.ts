import { fractal, mix, noise, smooth } from "../noise";
import { crust, radialOutline, type Bake, type BreadForm, type Surface } from "./bread";

const outer = 62;
const inner = 46;

function berries(seed: number): { x: number; y: number; r: number }[] {
  const places = [{ x: 0, y: 0, r: 12 }];
  for (let i = 0; i < 6; i++)
    places.push({ x: 24 * Math.cos((i * Math.PI) / 3 + seed), y: 24 * Math.sin((i * Math.PI) / 3 + seed), r: 11.5 });
  for (let i = 0; i < 6; i++)
    places.push({
      x: 38 * Math.cos((i * Math.PI) / 3 + seed + 0.52),
      y: 38 * Math.sin((i * Math.PI) / 3 + seed + 0.52),
      r: 7,
    });
  return places;
}

export function tart(bake: Bake, seed: number): BreadForm {
  const fruit = berries(noise(seed, 2, 9) * 6);
  const berryAt = (u: number, v: number) => {
    let rise = 0;
    for (const berry of fruit) {
      const share = Math.hypot(u - berry.x, v - berry.y) / berry.r;
      if (share < 1) rise = Math.max(rise, Math.sqrt(1 - share * share) * berry.r);
    }
    return rise;
  };
  const surface = (u: number, v: number): Surface => {
    const angle = Math.atan2(v, u);
    const radius = Math.hypot(u, v);
    const edge = outer + 2.4 * Math.cos(angle * 22) - radius;
    if (edge <= 0) return { edge, height: 0 };
    if (radius > inner) {
      const wall = Math.sin(((outer + 2 - radius) / (outer + 2 - inner)) * Math.PI);
      return {
        edge,
        height: 13 + 10 * Math.max(0, wall) + 1.6 * Math.cos(angle * 22) + (fractal(u / 6, v / 6, seed, 2) - 0.5) * 3,
      };
    }
    return { edge, height: 8 + berryAt(u, v) * 1.15 };
  };
  return {
    reach: { x: 68, y: 68 },
    surface,
    skin: (u, v, at) => {
      const radius = Math.hypot(u, v);
      if (radius > inner)
        return {
          colour: crust(bake, 0.2 + 0.5 * fractal(u / 10, v / 10, seed + 4, 3) + 0.2 * smooth(0, 8, at.edge)),
          gloss: 0.1,
        };
      const rise = berryAt(u, v);
      const seeds = rise > 2 && noise(u / 1.9, v / 1.9, seed + 6) > 0.83 ? 0.25 : 0;
      const berry = mix([0.42, 0.03, 0.08], [0.76, 0.09, 0.16], smooth(0, 11, rise));
      return { colour: rise > 0 ? mix(berry, [0.95, 0.62, 0.35], seeds) : [0.3, 0.02, 0.06], gloss: 0.95 };
    },
    outline: () => radialOutline(surface, 80, 66),
  };
}
