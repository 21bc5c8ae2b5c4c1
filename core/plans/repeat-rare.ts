/**
 * Repeat factors for images of rare classes: r(class) = max(1, sqrt(share / share of training images with it)); an image
 * takes the highest of its classes, rounded by a draw. Gupta, Dollár & Girshick, "LVIS" (CVPR 2019), 3.2.
 */
import type { Split } from "../model/item";
import { uniform } from "../model/seeded";
import type { LightStock } from "../stock/light-stock";
import type { Plan } from "./plan";

/** How often each training image goes out, by hash; those that go out once are not listed. */
export function repeatRare(
  { keys, names, starts, classOf }: LightStock,
  splits: readonly (Split | null)[],
  { augment: { rare }, seed }: Pick<Plan, "augment" | "seed">,
): Map<string, number> {
  const repeats = new Map<string, number>();
  if (!rare || rare.share === 0) return repeats;
  const holding = new Float64Array(names.length);
  let training = 0;
  splits.forEach((split, n) => {
    if (split !== "train") return;
    training++;
    for (let at = starts.at(n); at < starts.at(n + 1); at++) {
      const index = classOf.at(at);
      holding[index] = (holding[index] as number) + 1;
    }
  });
  const factors = holding.map((count) => (count > 0 ? Math.max(1, Math.sqrt((rare.share * training) / count)) : 1));
  splits.forEach((split, n) => {
    if (split !== "train") return;
    let factor = 1;
    for (let at = starts.at(n); at < starts.at(n + 1); at++)
      factor = Math.max(factor, factors[classOf.at(at)] as number);
    const key = keys[n] as string;
    const below = Math.floor(factor);
    const drawn = below + (factor > below && uniform("rare", seed, key) < factor - below ? 1 : 0);
    const times = Math.min(rare.most, drawn);
    if (times > 1) repeats.set(key, times);
  });
  return repeats;
}
