import type { Bake, BreadForm, BreadKind } from "./bread";
import { croissant } from "./croissant";
import { pretzel } from "./pretzel";
import { baguette, loaf, roll } from "./round";
import { tart } from "./tart";

const makers: Record<BreadKind, (bake: Bake, seed: number) => BreadForm> = {
  loaf,
  roll,
  croissant,
  pretzel,
  baguette,
  tart,
};

/** The form of one bread; the seed gives it its own wobble and freckles. */
export function breadForm(kind: BreadKind, bake: Bake, seed: number): BreadForm {
  return makers[kind](bake, seed);
}
