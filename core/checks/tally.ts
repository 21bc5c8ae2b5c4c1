/** Classes counted over a stock. */
import type { Split } from "../model/item";
import type { LightStock } from "../stock/light-stock";

export type ClassTally = { name: string; images: number; objects: number; bySplit: Record<Split | "none", number> };

/** Per class: images that hold it, objects (an image-level class counts as one), and objects a split. */
export function tallyClasses(stock: LightStock, names: readonly string[]): ClassTally[] {
  const tallies = new Map<string, ClassTally>(
    names.map((name) => [name, { name, images: 0, objects: 0, bySplit: { train: 0, val: 0, test: 0, none: 0 } }]),
  );
  const byIndex = stock.names.map((name) => tallies.get(name));
  for (let n = 0; n < stock.length; n++) {
    const split = stock.splits[n] ?? "none";
    const last = stock.starts.at(n + 1);
    for (let at = stock.starts.at(n); at < last; at++) {
      const tally = byIndex[stock.classOf.at(at)];
      if (!tally) continue;
      const count = stock.objectCounts.at(at) + stock.imageLevel.at(at);
      tally.images++;
      tally.objects += count;
      tally.bySplit[split] += count;
    }
  }
  return [...tallies.values()];
}
