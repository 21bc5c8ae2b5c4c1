/**
 * Runs a plan on the light rows of a stock: how many images and objects go in and come out of every step, before
 * anything is built.
 */
import type { LabelState, Split } from "../model/item";
import { splitNames } from "../model/item";
import { renamed } from "../relabel/mapping";
import { deal } from "../splitting/deal";
import type { Plan } from "./plan";

/** As much of an image as counting needs. `objects` maps a class to how many; `classes` are image-level ones. */
export type StockRow = {
  key: string;
  delivery: number;
  split: Split | null;
  state: LabelState;
  objects: ReadonlyMap<string, number>;
  classes: readonly string[];
};

export const planSteps = ["stock", "select", "relabel", "split", "prepare", "augment", "pack"] as const;
export type PlanStep = (typeof planSteps)[number];

/** Numbers of one band of the flow; `split` is null while images are not dealt yet. */
export type Band = { split: Split | null; images: number; objects: number; byClass: Record<string, number> };
export type Flow = {
  steps: { step: PlanStep; bands: Band[] }[];
  assigned: Map<string, Split>;
  /** Splits that were asked for and got nothing. */
  emptySplits: Split[];
};

/** The rows that the plan's first step lets through. */
export function selectRows(rows: readonly StockRow[], select: Plan["select"]): StockRow[] {
  return rows.filter(
    (row) =>
      select.states.includes(row.state) && (select.deliveries === null || select.deliveries.includes(row.delivery)),
  );
}

/**
 * The rows with their classes renamed and left out; an image that loses all its labels becomes an empty one, or goes.
 */
export function relabelRows(rows: readonly StockRow[], relabel: Plan["relabel"]): StockRow[] {
  const known = new Map<string, string | null>();
  const after = (name: string): string | null => {
    let target = known.get(name);
    if (target === undefined) known.set(name, (target = renamed(name, relabel)));
    return target;
  };
  const stays = (name: string) => after(name) === name;
  const out: StockRow[] = [];
  for (const row of rows) {
    if ([...row.objects.keys()].every(stays) && row.classes.every(stays)) {
      out.push(row);
      continue;
    }
    const objects = new Map<string, number>();
    for (const [name, count] of row.objects) {
      const target = after(name);
      if (target !== null) objects.set(target, (objects.get(target) ?? 0) + count);
    }
    const classes = [...new Set(row.classes.map(after).filter((name) => name !== null))];
    const emptied = row.objects.size + row.classes.length > 0 && objects.size + classes.length === 0;
    if (emptied && relabel.emptied === "leave-out") continue;
    out.push({ ...row, objects, classes, state: emptied ? "empty" : row.state });
  }
  return out;
}

/** Which split each row goes to. With `keep`, rows without a split stay out of the data set. */
export function splitRows(rows: readonly StockRow[], split: Plan["split"]): Map<string, Split> {
  if (split.mode === "keep") return new Map(rows.flatMap((row) => (row.split ? [[row.key, row.split] as const] : [])));
  const images = rows.map((row) => ({
    key: row.key,
    // Most rows hold objects alone: these need no list of their own.
    classes:
      row.classes.length === 0
        ? row.objects
        : new Map([...row.objects, ...row.classes.map((name) => [name, 1] as const)]),
  }));
  return deal(images, split.ratio, split.seed);
}

type Tally = { images: number; objects: number; byClass: Map<string, number> };

function tally(rows: readonly StockRow[]): Tally {
  const byClass = new Map<string, number>();
  let objects = 0;
  for (const row of rows) {
    for (const [name, count] of row.objects) {
      byClass.set(name, (byClass.get(name) ?? 0) + count);
      objects += count;
    }
    for (const name of row.classes) byClass.set(name, (byClass.get(name) ?? 0) + 1);
  }
  return { images: rows.length, objects, byClass };
}

function sum(tallies: readonly Tally[]): Tally {
  const total: Tally = { images: 0, objects: 0, byClass: new Map() };
  for (const { images, objects, byClass } of tallies) {
    total.images += images;
    total.objects += objects;
    for (const [name, count] of byClass) total.byClass.set(name, (total.byClass.get(name) ?? 0) + count);
  }
  return total;
}

function bandOf(split: Split | null, { images, objects, byClass }: Tally, times = 1): Band {
  return {
    split,
    images: images * times,
    objects: objects * times,
    byClass: Object.fromEntries([...byClass].map(([name, count]) => [name, count * times])),
  };
}

export function runFlow(rows: readonly StockRow[], plan: Plan): Flow {
  const selected = selectRows(rows, plan.select);
  const relabeled = relabelRows(selected, plan.relabel);
  const assigned = splitRows(relabeled, plan.split);
  const bySplit = new Map<Split, StockRow[]>(splitNames.map((split) => [split, []]));
  for (const row of relabeled) {
    const split = assigned.get(row.key);
    if (split) bySplit.get(split)?.push(row);
  }
  const asked = splitNames.filter((split) =>
    plan.split.mode === "keep" ? (bySplit.get(split)?.length ?? 0) > 0 : plan.split.ratio[split] > 0,
  );
  const stock = tally(rows);
  const chosen = selected.length === rows.length ? stock : tally(selected);
  const tallies = asked.map((split) => [split, tally(bySplit.get(split) ?? [])] as const);
  // Where every image is dealt, what was relabeled is what the splits hold together.
  const dealtAll = assigned.size === relabeled.length;
  const afterRelabel = dealtAll ? sum(tallies.map(([, counted]) => counted)) : tally(relabeled);
  const bands = (trainTimes: number) =>
    tallies.map(([split, counted]) => bandOf(split, counted, split === "train" ? trainTimes : 1));
  const once = bands(1);
  const multiplied = bands(1 + plan.augment.copies);
  return {
    steps: [
      { step: "stock", bands: [bandOf(null, stock)] },
      { step: "select", bands: [bandOf(null, chosen)] },
      { step: "relabel", bands: [bandOf(null, afterRelabel)] },
      { step: "split", bands: once },
      { step: "prepare", bands: once },
      { step: "augment", bands: multiplied },
      { step: "pack", bands: multiplied },
    ],
    assigned,
    emptySplits: asked.filter((split) => (bySplit.get(split)?.length ?? 0) === 0),
  };
}
