/** What a stock's numbers say about its balance: classes that are rare, splits that lack one, states left open. */
import { severities, type Severity } from "../model/finding";
import type { Split } from "../model/item";
import { splitNames } from "../model/item";
import { selecting } from "../selection/dimensions";
import type { LightStock } from "../stock/light-stock";

export type Check = {
  code: "class-rare" | "class-lacks-split" | "classes-uneven" | "split-small" | "unlabeled-left" | "class-unused";
  severity: Severity;
  message: string;
  count: number;
  /** The selection that shows it; null where nothing in stock does. */
  where: string | null;
};

/** Fewer objects than this are too few to learn a class from and to measure it by. */
const rareBelow = 20;
/** The most common class may outnumber the rarest by this factor before it is worth a word. */
const unevenAbove = 10;
/** A split smaller than this share of the images that have one measures little. */
const smallShare = 0.05;

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

const plural = (n: number, one: string, many: string) => `${n.toLocaleString("en-US")} ${n === 1 ? one : many}`;

/** Every check on balance that finds something, worst first. */
export function checkBalance(stock: LightStock, names: readonly string[]): Check[] {
  const checks: Check[] = [];
  const tallies = tallyClasses(stock, names);
  const used = tallies.filter((tally) => tally.objects > 0);
  for (const tally of tallies) {
    if (tally.objects === 0)
      checks.push({
        code: "class-unused",
        severity: "info",
        message: `Nothing in stock is labeled ${tally.name}.`,
        count: 1,
        where: null,
      });
    else if (tally.objects < rareBelow) {
      checks.push({
        code: "class-rare",
        severity: "warning",
        message: `${tally.name} has only ${plural(tally.objects, "example", "examples")}, on ${plural(tally.images, "image", "images")}.`,
        count: tally.objects,
        where: selecting({ class: [tally.name] }),
      });
    }
  }
  const sizes = { train: 0, val: 0, test: 0 };
  for (const split of stock.splits) if (split) sizes[split]++;
  const dealt = sizes.train + sizes.val + sizes.test;
  for (const split of splitNames) {
    if (dealt === 0) break;
    if (sizes[split] === 0) continue;
    if (sizes[split] / dealt < smallShare) {
      checks.push({
        code: "split-small",
        severity: "warning",
        message: `${split} holds ${plural(sizes[split], "image", "images")}, less than 5% of what has a split.`,
        count: sizes[split],
        where: selecting({ split: [split] }),
      });
    }
    for (const tally of used) {
      if (tally.bySplit[split] === 0)
        checks.push({
          code: "class-lacks-split",
          severity: "warning",
          message: `${split} holds no ${tally.name}.`,
          count: tally.objects,
          where: selecting({ class: [tally.name] }),
        });
    }
  }
  const most = used.reduce<ClassTally | null>((a, b) => (a && a.objects >= b.objects ? a : b), null);
  const least = used.reduce<ClassTally | null>((a, b) => (a && a.objects <= b.objects ? a : b), null);
  if (most && least && most.objects > unevenAbove * least.objects) {
    checks.push({
      code: "classes-uneven",
      severity: "info",
      message: `There are ${Math.round(most.objects / least.objects)} times as many ${most.name} as ${least.name}.`,
      count: most.objects,
      where: selecting({ class: [least.name] }),
    });
  }
  const unlabeled = stock.states.filter((state) => state === "unlabeled").length;
  if (unlabeled > 0)
    checks.push({
      code: "unlabeled-left",
      severity: "info",
      message: `${plural(unlabeled, "image waits", "images wait")} for a label.`,
      count: unlabeled,
      where: selecting({ state: ["unlabeled"] }),
    });
  return checks.sort((a, b) => severities.indexOf(a.severity) - severities.indexOf(b.severity) || b.count - a.count);
}
