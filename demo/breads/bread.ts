import type { Colour } from "../noise";
import { mix } from "../noise";

export const breadKinds = ["loaf", "roll", "croissant", "pretzel", "baguette", "tart"] as const;
export type BreadKind = (typeof breadKinds)[number];
export const bakes = ["pale", "golden", "dark"] as const;
export type Bake = (typeof bakes)[number];

/**
 * A point of a bread's surface: `edge` is the distance from its rim in local pixels (negative outside), `height` how
 * far it stands off the tray.
 */
export type Surface = { edge: number; height: number };

/** What a bread's skin looks like at a point. `gloss` is how strongly it shines. */
export type Skin = { colour: Colour; gloss: number };

export type BreadForm = {
  /** Half the extent of the local frame that holds the bread. */
  reach: { x: number; y: number };
  surface: (u: number, v: number) => Surface;
  skin: (u: number, v: number, surface: Surface) => Skin;
  /** The true outline in local coordinates. */
  outline: () => number[];
  /** Local places of the named keypoints. */
  keypoints?: () => number[];
};

const crusts: Record<Bake, { light: Colour; mid: Colour; deep: Colour }> = {
  pale: { light: [0.93, 0.78, 0.52], mid: [0.84, 0.62, 0.34], deep: [0.66, 0.42, 0.19] },
  golden: { light: [0.87, 0.62, 0.3], mid: [0.71, 0.42, 0.15], deep: [0.46, 0.23, 0.07] },
  dark: { light: [0.63, 0.37, 0.16], mid: [0.42, 0.21, 0.08], deep: [0.21, 0.1, 0.045] },
};

/** Crust colour from the light parts (0) to the deep ones (1). */
export function crust(bake: Bake, depth: number): Colour {
  const { light, mid, deep } = crusts[bake];
  return depth < 0.5 ? mix(light, mid, depth * 2) : mix(mid, deep, (depth - 0.5) * 2);
}

/** The outline of a form that every ray from its middle leaves once, by halving on its surface. */
export function radialOutline(surface: (u: number, v: number) => Surface, reach: number, points: number): number[] {
  const outline: number[] = [];
  for (let i = 0; i < points; i++) {
    const angle = (i / points) * 2 * Math.PI;
    let low = 0;
    let high = reach;
    for (let step = 0; step < 24; step++) {
      const middle = (low + high) / 2;
      if (surface(middle * Math.cos(angle), middle * Math.sin(angle)).edge > 0) low = middle;
      else high = middle;
    }
    outline.push(low * Math.cos(angle), low * Math.sin(angle));
  }
  return outline;
}
