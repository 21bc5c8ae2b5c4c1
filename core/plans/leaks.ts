/** Leaks between splits: images that are nearly the same and were dealt apart, which makes scores look better than they are. */
import { splitNames, type Split } from "../model/item";
import type { StockFacts } from "../stock/stock-facts";

/** So many images of `split` have a near-copy in `from`. */
export type Leak = { split: Split; from: Split; images: number };

/** `origins` gives each dealt image's place in the stock that the facts know. Splits without a leak are left out. */
export function leaksBetween(
  splits: readonly (Split | null)[],
  origins: ArrayLike<number>,
  facts: Pick<StockFacts, "nearCopies">,
): Leak[] {
  const splitAt: (Split | null)[] = [];
  splits.forEach((split, n) => (splitAt[origins[n] as number] = split));
  const counts = new Map<string, Leak>();
  splits.forEach((split, n) => {
    if (!split || split === "train") return;
    const copies = facts.nearCopies(origins[n] as number);
    if (copies.length === 0) return;
    const met = new Set(copies.map((other) => splitAt[other]));
    for (const from of splitNames.slice(0, splitNames.indexOf(split))) {
      if (!met.has(from)) continue;
      const leak = counts.get(`${split} ${from}`) ?? { split, from, images: 0 };
      counts.set(`${split} ${from}`, { ...leak, images: leak.images + 1 });
    }
  });
  return [...counts.values()];
}
