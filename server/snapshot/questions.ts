/** What can be asked of a snapshot; each answer is small next to the snapshot, since it travels between threads. */
import { checkBalance, tallyClasses, type Check, type ClassTally } from "@larder/core/checks/balance";
import type { Split } from "@larder/core/model/item";
import { runFlow, type Flow, type StockRow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { facetsOf, type Facets } from "@larder/core/snapshot/facets";
import { matchingIds, placeAmong } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { stockRows } from "@larder/core/snapshot/stock-rows";
import type { StockFilter } from "@larder/core/stock/filter";

type Made = { revision: number; rows: StockRow[]; tallies: ClassTally[] };
const madeOf = new WeakMap<Snapshot, Made>();
const namesOf = (snapshot: Snapshot) => snapshot.classes.map(({ name }) => name);

/** The light rows of a snapshot and its classes counted over them, made once a revision. */
function made(snapshot: Snapshot): Made {
  const known = madeOf.get(snapshot);
  if (known?.revision === snapshot.revision) return known;
  const rows = stockRows(snapshot);
  const anew = { revision: snapshot.revision, rows, tallies: tallyClasses(rows, namesOf(snapshot)) };
  madeOf.set(snapshot, anew);
  return anew;
}

export type FlowCount = Pick<Flow, "steps" | "emptySplits"> & { classes: ClassTally[] };
export type Page = { ids: number[] };
export type Place = { place: number; before: number | null; after: number | null };

export const questions = {
  facets: (snapshot: Snapshot, filter: StockFilter): Facets => facetsOf(snapshot, filter),
  page: (
    snapshot: Snapshot,
    { filter, start, limit }: { filter: StockFilter; start: number; limit: number },
  ): Page => ({
    ids: matchingIds(snapshot, filter, start, limit),
  }),
  place: (snapshot: Snapshot, { filter, image }: { filter: StockFilter; image: number }): Place =>
    placeAmong(snapshot, filter, image),
  classes: (snapshot: Snapshot): ClassTally[] => made(snapshot).tallies,
  balance: (snapshot: Snapshot): { checks: Check[]; names: string[] } => ({
    checks: checkBalance(made(snapshot).rows, namesOf(snapshot)),
    names: namesOf(snapshot),
  }),
  flow: (snapshot: Snapshot, plan: Plan): FlowCount => {
    const { steps, emptySplits } = runFlow(made(snapshot).rows, plan);
    return { steps, emptySplits, classes: made(snapshot).tallies };
  },
  /** Which image goes to which split, and how many objects come along. */
  assigned: (
    snapshot: Snapshot,
    plan: Plan,
  ): { assigned: Map<string, Split>; labeled: Set<string>; objects: number } => {
    const rows = made(snapshot).rows;
    const { assigned } = runFlow(rows, plan);
    const dealtRows = rows.filter(({ key }) => assigned.has(key));
    return {
      assigned,
      labeled: new Set(dealtRows.filter(({ state }) => state === "labeled").map(({ key }) => key)),
      objects: dealtRows.reduce((sum, { objects }) => [...objects.values()].reduce((all, n) => all + n, sum), 0),
    };
  },
  /** What the snapshot itself takes, for the benchmark. */
  size: (snapshot: Snapshot): { bytes: number; images: number; objects: number } => ({
    bytes: snapshot.size,
    images: snapshot.length,
    objects: snapshot.objectClass.length,
  }),
};

export type Questions = typeof questions;
export type Question = keyof Questions;
export type Argument<Q extends Question> = Parameters<Questions[Q]>[1];
export type Answer<Q extends Question> = ReturnType<Questions[Q]>;
