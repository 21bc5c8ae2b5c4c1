import type { Holdings } from "../splitting/deal";
import type { LightStock } from "../stock/light-stock";

/** What some of a stock's images hold, as dealing takes it. */
export function holdingsOf({ keys, names, starts, classOf }: LightStock, images: ArrayLike<number>): Holdings {
  const holdings = { keys: [] as string[], names, starts: [0], classOf: [] as number[] };
  for (let i = 0; i < images.length; i++) {
    const n = images[i] as number;
    holdings.keys.push(keys[n] as string);
    for (let at = starts.at(n); at < starts.at(n + 1); at++) holdings.classOf.push(classOf.at(at));
    holdings.starts.push(holdings.classOf.length);
  }
  return holdings;
}
