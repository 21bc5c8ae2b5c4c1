/** What stands on the rack in one picture, as data: everything the drawing and the truth are made from. */
import { breadKinds, bakes, type Bake, type BreadKind } from "./breads/bread";
import { Draws } from "./random";

export const frame = { width: 960, height: 720 };

export type PlacedBread = {
  kind: BreadKind;
  bake: Bake;
  seed: number;
  x: number;
  y: number;
  angle: number;
  scale: number;
};
export type Light = { x: number; y: number; warmth: number; exposure: number; falloffX: number; falloffY: number };
export type Scene = {
  seed: number;
  ground: "rack" | "parchment" | "steel";
  light: Light;
  breads: PlacedBread[];
  shift: { x: number; y: number };
};

/** How often a tray holds each kind; the tart is rare on purpose. */
const usual: readonly (readonly [BreadKind, number])[] = [
  ["loaf", 18],
  ["roll", 26],
  ["croissant", 21],
  ["pretzel", 17],
  ["baguette", 12],
  ["tart", 5],
];
const radius: Record<BreadKind, number> = { loaf: 98, roll: 62, croissant: 98, pretzel: 94, baguette: 150, tart: 68 };

/** Places breads so that none touch; with the same seed always the same. */
export function makeScene(seed: number, { empty = false }: { empty?: boolean } = {}): Scene {
  const draws = new Draws(seed, "scene");
  const light: Light = {
    x: draws.between(-0.75, -0.25),
    y: draws.between(-0.8, -0.35),
    warmth: draws.between(-0.06, 0.12),
    exposure: draws.between(0.82, 1.14),
    falloffX: draws.between(0.25, 0.7),
    falloffY: draws.between(0.2, 0.6),
  };
  const ground = draws.pick([
    ["rack", 45],
    ["parchment", 40],
    ["steel", 15],
  ] as const);
  const breads: PlacedBread[] = [];
  const favourite = draws.pick(usual);
  const second = draws.pick(usual);
  const wanted = empty ? 0 : draws.whole(3, 13);
  for (let attempt = 0; attempt < 140 && breads.length < wanted; attempt++) {
    const kind = draws.chance(0.55) ? favourite : draws.chance(0.55) ? second : draws.pick(usual);
    const scale = draws.between(0.74, 0.92);
    const x = draws.between(30, frame.width - 30);
    const y = draws.between(30, frame.height - 30);
    const angle = kind === "baguette" ? draws.between(-0.5, 0.5) : draws.between(-Math.PI, Math.PI);
    const bake = draws.pick([
      [bakes[0], 20],
      [bakes[1], 56],
      [bakes[2], 24],
    ] as const);
    const breadSeed = draws.whole(1, 100_000);
    const clear = breads.every(
      (other) =>
        Math.hypot(other.x - x, other.y - y) > (radius[other.kind] * other.scale + radius[kind] * scale) * 1.03,
    );
    if (clear) breads.push({ kind, bake, seed: breadSeed, x, y, angle, scale });
  }
  return { seed, ground, light, breads, shift: { x: 0, y: 0 } };
}

/** The next shot of the same tray: the camera has moved a hair and the light has changed a little. */
export function nextShot(scene: Scene): Scene {
  const draws = new Draws(scene.seed, "next shot");
  return {
    ...scene,
    seed: scene.seed + 500_000,
    light: { ...scene.light, exposure: scene.light.exposure * draws.between(0.97, 1.03) },
    shift: { x: draws.between(-5, 5), y: draws.between(-5, 5) },
  };
}

export { breadKinds };
