/** What can be asked of a snapshot; each answer is small next to the snapshot, since it travels between threads. */
import { checkBalance, tallyClasses, type Check, type ClassTally } from "@larder/core/checks/balance";
import type { Split } from "@larder/core/model/item";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { classExamples, type ClassSight } from "@larder/core/snapshot/class-examples";
import { facetsOf, type Facets } from "@larder/core/snapshot/facets";
import { failures, matchingIds, placeAmong } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { lightStockOf } from "@larder/core/snapshot/light-stock-of";
import { vocabularyOf } from "@larder/core/snapshot/vocabulary-of";
import type { Vocabulary } from "@larder/core/selection/vocabulary";
import {
  cutoutGroups,
  cutoutsOf,
  orderNeedsLearned,
  type CutoutGroups,
  type CutoutPage,
} from "@larder/core/snapshot/cutouts";
import { needsLearned, type Order } from "@larder/core/snapshot/order";
import type { LightStock } from "@larder/core/stock/light-stock";
import type { Selection } from "@larder/core/selection/chosen";

type Derived = {
  revision: number;
  stock: LightStock;
  tallies: ClassTally[];
  sights: Map<number, ClassSight> | null;
};
const derivedOf = new WeakMap<Snapshot, Derived>();
const namesOf = (snapshot: Snapshot) => snapshot.classes.map(({ name }) => name);

/** The light stock of a snapshot and its classes counted over it, made once a revision. */
function derived(snapshot: Snapshot): Derived {
  const known = derivedOf.get(snapshot);
  if (known?.revision === snapshot.revision) return known;
  const stock = lightStockOf(snapshot);
  const anew: Derived = {
    revision: snapshot.revision,
    stock,
    tallies: tallyClasses(stock, namesOf(snapshot)),
    sights: null,
  };
  derivedOf.set(snapshot, anew);
  return anew;
}

export type FlowCount = Pick<Flow, "steps" | "emptySplits" | "kept" | "unchanged"> & { classes: ClassTally[] };
export type Page = { ids: number[] };
export type Place = { place: number; before: number | null; after: number | null };

export const questions = {
  facets: (snapshot: Snapshot, selection: Selection): Facets => facetsOf(snapshot, selection),
  page: (
    snapshot: Snapshot,
    {
      selection,
      start,
      limit,
      order,
    }: { selection: Selection; start: number; limit: number; order?: Order | undefined },
  ): Page => ({
    ids: matchingIds(snapshot, selection, start, limit, order),
  }),
  place: (
    snapshot: Snapshot,
    { selection, image, order }: { selection: Selection; image: number; order?: Order | undefined },
  ): Place => placeAmong(snapshot, selection, image, order),
  /** How many images a selection means. */
  count: (snapshot: Snapshot, selection: Selection): number =>
    failures(snapshot, selection).reduce((count, failed) => count + (failed === 0 ? 1 : 0), 0),
  vocabulary: (snapshot: Snapshot): Vocabulary => vocabularyOf(snapshot),
  /** Names of attributes that a selection may ask for. */
  attributes: (snapshot: Snapshot): string[] => [...snapshot.attributeNames()],
  /** Codes of what was found on images in stock. */
  findings: (snapshot: Snapshot): string[] => [...snapshot.findingCodes()],
  classes: (snapshot: Snapshot): ClassTally[] => derived(snapshot).tallies,
  classExamples: (snapshot: Snapshot): Map<number, ClassSight> =>
    (derived(snapshot).sights ??= classExamples(snapshot)),
  balance: (snapshot: Snapshot): { checks: Check[]; names: string[] } => ({
    checks: checkBalance(derived(snapshot).stock, namesOf(snapshot)),
    names: namesOf(snapshot),
  }),
  flow: (snapshot: Snapshot, plan: Plan): FlowCount => {
    const { steps, emptySplits, kept, unchanged } = runFlow(derived(snapshot).stock, plan);
    return { steps, emptySplits, kept, unchanged, classes: derived(snapshot).tallies };
  },
  /** Which image goes to which split, and how many objects come along. */
  assigned: (
    snapshot: Snapshot,
    plan: Plan,
  ): { assigned: Map<string, Split>; labeled: Set<string>; objects: number } => {
    const { stock } = derived(snapshot);
    const { assigned } = runFlow(stock, plan);
    const labeled = new Set<string>();
    let objects = 0;
    stock.keys.forEach((key, n) => {
      if (!assigned.has(key)) return;
      if (stock.states[n] === "labeled") labeled.add(key);
      for (let at = stock.starts.at(n); at < stock.starts.at(n + 1); at++) objects += stock.objectCounts.at(at);
    });
    return { assigned, labeled, objects };
  },
  cutoutGroups: (snapshot: Snapshot, selection: Selection): CutoutGroups => cutoutGroups(snapshot, selection),
  cutouts: (snapshot: Snapshot, asked: Parameters<typeof cutoutsOf>[1]): CutoutPage => cutoutsOf(snapshot, asked),
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

/** Whether a question looks at features, which are loaded when they are first needed. */
export function looksAtLearned(question: Question, argument: unknown): boolean {
  if (question === "cutouts") return orderNeedsLearned((argument as Argument<"cutouts">).by);
  if (question !== "page" && question !== "place") return false;
  const { order } = argument as Argument<"page">;
  return order !== undefined && needsLearned(order);
}
