import { fractal, mix, noise, smooth } from "../noise";
import { crust, type Bake, type BreadForm, type Surface } from "./bread";

const arcRadius = 70;
const halfSpan = 1.62;
const thickest = 37;

/** Half the thickness at an angle along the crescent, in layers that step outwards to the middle. */
function halfWidth(angle: number): number {
  const share = Math.abs(angle) / halfSpan;
  if (share >= 1) return 0;
  const taper = Math.sqrt(1 - share ** 2.4);
  const layer = Math.abs(((share * 4.2 + 0.35) % 1) - 0.5) * 2;
  return thickest * taper * (0.93 + 0.07 * layer) * (1 - 0.16 * share);
}

const centre = arcRadius * 0.62;

export function croissant(bake: Bake, seed: number): BreadForm {
  const surface = (u: number, v: number): Surface => {
    const dv = v - centre;
    const angle = Math.atan2(u, -dv);
    const offset = Math.hypot(u, dv) - arcRadius;
    const width = halfWidth(angle);
    const edge = width - Math.abs(offset);
    if (edge <= 0 || width <= 0) return { edge: Math.min(edge, -0.01), height: 0 };
    const round = Math.sqrt(1 - (offset / width) ** 2);
    const share = Math.abs(angle) / halfSpan;
    const step = (share * 4.2 + 0.35 + offset * 0.004) % 1;
    const ridge = smooth(0, 0.16, step) - smooth(0.16, 1, step) * 0.85;
    const flakes = fractal(angle * 13, offset / 16, seed + 3, 3) - 0.5;
    return { edge, height: width * 0.95 * (round * 0.86 + 0.17 * ridge * round + flakes * 0.1 * round) };
  };
  return {
    reach: { x: 116, y: 84 },
    surface,
    skin: (u, v, at) => {
      const dv = v - centre;
      const angle = Math.atan2(u, -dv);
      const offset = Math.hypot(u, dv) - arcRadius;
      const step = ((Math.abs(angle) / halfSpan) * 4.2 + 0.35 + offset * 0.004) % 1;
      const groove = 1 - smooth(0, 0.22, step);
      const streaks = fractal(angle * 5, offset / 2.6, seed + 8, 3);
      const mottle = noise(u / 20, v / 20, seed + 21);
      const rim = smooth(0, 20, at.edge);
      const depth = Math.min(
        1,
        Math.max(0, 0.16 + rim * 0.42 + (streaks - 0.5) * 0.8 + (mottle - 0.5) * 0.4 - groove * 0.34),
      );
      return { colour: mix(crust(bake, depth), [0.98, 0.9, 0.7], groove * 0.22), gloss: 0.36 * (1 - groove) };
    },
    outline: () => {
      const outer: number[] = [];
      const inner: number[] = [];
      const steps = 40;
      for (let i = 0; i <= steps; i++) {
        const angle = -halfSpan + (2 * halfSpan * i) / steps;
        const width = halfWidth(angle);
        outer.push((arcRadius + width) * Math.sin(angle), centre - (arcRadius + width) * Math.cos(angle));
        if (i > 0 && i < steps)
          inner.unshift((arcRadius - width) * Math.sin(angle), centre - (arcRadius - width) * Math.cos(angle));
      }
      return [...outer, ...inner];
    },
  };
}
