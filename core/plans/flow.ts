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
  const out: StockRow[] = [];
  for (const row of rows) {
    const objects = new Map<string, number>();
    for (const [name, count] of row.objects) {
      const after = renamed(name, relabel);
      if (after !== null) objects.set(after, (objects.get(after) ?? 0) + count);
    }
    const classes = [
      ...new Set(row.classes.map((name) => renamed(name, relabel)).filter((name): name is string => name !== null)),
    ];
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
    classes: new Map([...row.objects, ...row.classes.map((name) => [name, 1] as const)]),
  }));
  return deal(images, split.ratio, split.seed);
}

function bandOf(split: Split | null, rows: readonly StockRow[], times: number): Band {
  const byClass: Record<string, number> = {};
  let objects = 0;
  for (const row of rows) {
    for (const [name, count] of row.objects) {
      byClass[name] = (byClass[name] ?? 0) + count * times;
      objects += count * times;
    }
    for (const name of row.classes) byClass[name] = (byClass[name] ?? 0) + times;
  }
  return { split, images: rows.length * times, objects, byClass };
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
  const bands = (trainTimes: number) =>
    asked.map((split) => bandOf(split, bySplit.get(split) ?? [], split === "train" ? trainTimes : 1));
  const once = bands(1);
  const multiplied = bands(1 + plan.augment.copies);
  return {
    steps: [
      { step: "stock", bands: [bandOf(null, rows, 1)] },
      { step: "select", bands: [bandOf(null, selected, 1)] },
      { step: "relabel", bands: [bandOf(null, relabeled, 1)] },
      { step: "split", bands: once },
      { step: "prepare", bands: once },
      { step: "augment", bands: multiplied },
      { step: "pack", bands: multiplied },
    ],
    assigned,
    emptySplits: asked.filter((split) => (bySplit.get(split)?.length ?? 0) === 0),
  };
}
