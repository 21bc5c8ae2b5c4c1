/** What can be asked of a snapshot; each answer is small next to the snapshot, since it travels between threads. */
import { allChecks, takeStock, type StockFinding, type Thresholds } from "@larder/core/checks/stocktake";
import { describeFinding, type ShownFinding, type ShownProof, shownProofs } from "@larder/core/checks/shown-finding";
import type { CheckedStock } from "@larder/core/checks/check";
import { stockNumbers, type StockNumbers } from "@larder/core/checks/numbers";
import { tallyClasses, type ClassTally } from "@larder/core/checks/tally";
import type { Split } from "@larder/core/model/item";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { StepResults } from "@larder/core/plans/step-results";
import { planInput, slottedStock, type SlottedStock } from "@larder/core/snapshot/plan-input";
import { lightStockOf } from "@larder/core/snapshot/light-stock-of";
import { classExamples, type ClassSight } from "@larder/core/snapshot/class-examples";
import { facetsOf, type Facets } from "@larder/core/snapshot/facets";
import { failures, matchingIds, placeAmong } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
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
import type { Selection } from "@larder/core/selection/chosen";

type Derived = {
  revision: number;
  slotted: SlottedStock;
  /** What steps of plans came to, apart for each earlier version that they go by. */
  results: Map<number | null, StepResults>;
  tallies: ClassTally[];
  sights: Map<number, ClassSight> | null;
};
const derivedOf = new WeakMap<Snapshot, Derived>();
const namesOf = (snapshot: Snapshot) => snapshot.classes.map(({ name }) => name);

/** The light stock of a snapshot and its classes counted over it, made once a revision. */
function derived(snapshot: Snapshot): Derived {
  const known = derivedOf.get(snapshot);
  if (known?.revision === snapshot.revision) return known;
  const slotted = slottedStock(snapshot);
  const anew: Derived = {
    revision: snapshot.revision,
    slotted,
    results: new Map(),
    tallies: tallyClasses(slotted.stock, namesOf(snapshot)),
    sights: null,
  };
  derivedOf.set(snapshot, anew);
  return anew;
}

/** A plan with the splits of the earlier version that it goes by. */
export type PlanQuestion = { plan: Plan; like: ReadonlyMap<string, Split> | null };

/** The flow without what does not travel between threads. */
export type TravellingFlow = Omit<Flow, "relabeling" | "left"> & {
  made: Map<string, Set<string>>;
  attributes: string[];
};
export type FlowCount = Omit<TravellingFlow, "assigned" | "repeats"> & { tallies: ClassTally[] };

export type PlanDestination = { split: Split | null; leaves: { step: string; reason: string } | null };

function flowOf(snapshot: Snapshot, { plan, like }: PlanQuestion): Flow {
  const { slotted, results } = derived(snapshot);
  const version = like ? plan.split.like : null;
  const kept = results.get(version) ?? new StepResults();
  results.set(version, kept);
  return runFlow({ ...planInput(snapshot, slotted, plan, like), results: kept }, plan);
}

function travelling(snapshot: Snapshot, { relabeling, left: _, ...flow }: Flow): TravellingFlow {
  return { ...flow, made: relabeling.made, attributes: [...snapshot.attributeNames()] };
}

/** `exempt`: by a check's code the images it says nothing of, each as it was when that was said. */
export type StocktakeQuestion = {
  thresholds: Thresholds;
  exempt: readonly { code: string; image: number; changed: number }[];
  /** The part of the stock that is looked at; null for all of it. */
  selection: Selection | null;
};

/** So many objects are compared with each other while somebody waits; beyond, what they look like is left out. */
const mostComparedObjects = 10_000;
/** Up to so many objects all but their looks is checked anew for a number on the line of stations. */
const mostCountedObjects = 100_000;
type Taken = { key: string; findings: StockFinding[] };
const takenOf = new WeakMap<Snapshot, { whole?: Taken; withoutLooks?: Taken; part?: Taken }>();

/** The stock, or the part of it that a selection means, as checks and numbers take it. */
function checkedStock(snapshot: Snapshot, selection: Selection | null): CheckedStock {
  const { slotted, tallies } = derived(snapshot);
  if (selection === null) return { snapshot, slots: Uint32Array.from(slotted.slots).sort(), tallies, learned: null };
  const fails = failures(snapshot, selection);
  const slots = Uint32Array.from(slotted.slots)
    .filter((slot) => fails[slot] === 0)
    .sort();
  return { snapshot, slots, tallies: tallyClasses(lightStockOf(snapshot, slots), namesOf(snapshot)), learned: null };
}

/** All that is found in a stock, worked out once for as long as nothing changes. */
function stocktake(
  snapshot: Snapshot,
  { thresholds, exempt, selection }: StocktakeQuestion,
  kind: "whole" | "withoutLooks" = "whole",
): StockFinding[] {
  const isCompared = kind === "whole" && snapshot.objectClass.length <= mostComparedObjects;
  const learned = isCompared ? snapshot.learned : null;
  const key = JSON.stringify([snapshot.revision, learned?.upTo ?? null, thresholds, exempt, selection]);
  const taken = takenOf.get(snapshot) ?? {};
  const kept = selection === null ? kind : "part";
  if (taken[kept]?.key === key) return taken[kept].findings;
  const exemptSlots = new Map<string, Set<number>>(allChecks.map(({ code }) => [code, new Set()]));
  for (const { code, image, changed } of exempt) {
    const slot = snapshot.slotOf(image);
    if (slot !== null && snapshot.changed.at(slot) === changed) exemptSlots.get(code)?.add(slot);
  }
  const findings = takeStock({ ...checkedStock(snapshot, selection), learned }, thresholds, exemptSlots);
  takenOf.set(snapshot, { ...taken, [kept]: { key, findings } });
  return findings;
}

/** What is found without waiting long: `isWhole` where what objects look like was looked at, too, for all to be counted. */
function latestStocktake(
  snapshot: Snapshot,
  question: StocktakeQuestion,
): { findings: StockFinding[]; isWhole: boolean } {
  const whole = takenOf.get(snapshot)?.whole;
  if (whole && snapshot.objectClass.length > mostCountedObjects) return { findings: whole.findings, isWhole: true };
  return { findings: stocktake(snapshot, question, "withoutLooks"), isWhole: false };
}

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
  /** What all checks find, without all that proves it. */
  stocktake: (snapshot: Snapshot, question: StocktakeQuestion): ShownFinding[] =>
    stocktake(snapshot, question).map((finding) => describeFinding(snapshot, finding)),
  /** What is in the stock, or in a part of it, in numbers. */
  numbers: (
    snapshot: Snapshot,
    { longEdge, selection }: { longEdge: number; selection: Selection | null },
  ): StockNumbers => stockNumbers(checkedStock(snapshot, selection), longEdge),
  /** The same without waiting long, for numbers. */
  latestStocktake: (
    snapshot: Snapshot,
    question: StocktakeQuestion,
  ): { findings: ShownFinding[]; isWhole: boolean } => {
    const { findings, isWhole } = latestStocktake(snapshot, question);
    return { findings: findings.map((finding) => describeFinding(snapshot, finding)), isWhole };
  },
  /** The images that prove a finding, from one on; null where it is not found any more. */
  proofs: (
    snapshot: Snapshot,
    { key, start, limit, ...question }: StocktakeQuestion & { key: string; start: number; limit: number },
  ): { finding: ShownFinding; proofs: ShownProof[] } | null => {
    const finding = stocktake(snapshot, question).find((one) => one.key === key);
    return finding
      ? { finding: describeFinding(snapshot, finding), proofs: shownProofs(snapshot, finding, start, limit) }
      : null;
  },
  /** A plan's counts, without which image goes where. */
  flow: (snapshot: Snapshot, question: PlanQuestion): FlowCount => {
    const { assigned: _, repeats: __, ...counts } = travelling(snapshot, flowOf(snapshot, question));
    return { ...counts, tallies: derived(snapshot).tallies };
  },
  /** Which image goes to which split and how often, and all that its outputs are worked out with. */
  planned: (snapshot: Snapshot, question: PlanQuestion): TravellingFlow & { labeled: Set<string> } => {
    const flow = flowOf(snapshot, question);
    const { stock } = derived(snapshot).slotted;
    const labeled = new Set(stock.keys.filter((key, n) => stock.states[n] === "labeled" && flow.assigned.has(key)));
    return { ...travelling(snapshot, flow), labeled };
  },
  /** The images that a plan keeps, by the split that it deals them to. */
  dealt: (snapshot: Snapshot, question: PlanQuestion): Record<Split, number[]> => {
    const { assigned } = flowOf(snapshot, question);
    const { stock, slots } = derived(snapshot).slotted;
    const dealt: Record<Split, number[]> = { train: [], val: [], test: [] };
    stock.keys.forEach((key, n) => {
      const split = assigned.get(key);
      if (split) dealt[split].push(snapshot.ids.at(slots[n] as number));
    });
    return dealt;
  },
  /** Where an image of a hash goes in a plan: its split, or the step at which it leaves and the rule that did it. */
  destination: (snapshot: Snapshot, { key, ...question }: PlanQuestion & { key: string }): PlanDestination => {
    const { assigned, left } = flowOf(snapshot, question);
    return { split: assigned.get(key) ?? null, leaves: left.get(key) ?? null };
  },
  /** Images that leave a plan at a step, with the rule that did it: the first few of each rule, and how many there are. */
  leaving: (
    snapshot: Snapshot,
    { step, ...question }: PlanQuestion & { step: string },
  ): { reason: string; count: number; images: { id: number; name: string }[] }[] => {
    const { left } = flowOf(snapshot, question);
    const { stock, slots } = derived(snapshot).slotted;
    const byReason = new Map<string, { reason: string; count: number; images: { id: number; name: string }[] }>();
    stock.keys.forEach((key, n) => {
      const gone = left.get(key);
      if (gone?.step !== step) return;
      const entry = byReason.get(gone.reason) ?? { reason: gone.reason, count: 0, images: [] };
      byReason.set(gone.reason, entry);
      entry.count++;
      const slot = slots[n] as number;
      if (entry.images.length < 60)
        entry.images.push({ id: snapshot.ids.at(slot), name: snapshot.names[slot] as string });
    });
    return [...byReason.values()].sort((a, b) => b.count - a.count);
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
  if (question === "stocktake" || question === "proofs") return true;
  if (question === "cutouts") return orderNeedsLearned((argument as Argument<"cutouts">).by);
  if (question !== "page" && question !== "place") return false;
  const { order } = argument as Argument<"page">;
  return order !== undefined && needsLearned(order);
}
