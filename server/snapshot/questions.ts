/** What can be asked of a snapshot; each answer is small next to the snapshot, since it travels between threads. */
import type { ClassTally } from "@larder/core/checks/tally";
import type { Split } from "@larder/core/model/item";
import type { Flow } from "@larder/core/plans/flow";
import { classExamples, type ClassSight } from "@larder/core/snapshot/class-examples";
import { facetsOf, type Facets } from "@larder/core/snapshot/facets";
import { countMatching, matchingIds, namedImages, placeAmong } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { vocabularyOf } from "@larder/core/snapshot/vocabulary-of";
import type { Vocabulary } from "@larder/core/selection/vocabulary";
import { orderNeedsLearned } from "@larder/core/snapshot/cutout-group";
import { cutoutGroups, cutoutsOf, type CutoutGroups, type CutoutPage } from "@larder/core/snapshot/cutouts";
import { needsLearned, type Order } from "@larder/core/snapshot/order";
import type { Selection } from "@larder/core/selection/chosen";
import { checkQuestions, type CheckedPart, type StocktakeQuestion } from "./checked-part";
import { derived, flowOf, type PlanQuestion } from "./derived";

export type { CheckedPart, PlanQuestion, StocktakeQuestion };

/** The flow without what does not travel between threads. */
export type TravellingFlow = Omit<Flow, "relabeling" | "left"> & {
  made: Map<string, Set<string>>;
  attributes: string[];
};
export type FlowCount = Omit<TravellingFlow, "assigned" | "repeats"> & { tallies: ClassTally[] };

export type PlanDestination = { split: Split | null; leaves: { step: string; reason: string } | null };

function travelling(snapshot: Snapshot, { relabeling, left: _, ...flow }: Flow): TravellingFlow {
  return { ...flow, made: relabeling.made, attributes: [...snapshot.attributeNames()] };
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
  count: (snapshot: Snapshot, selection: Selection): number => countMatching(snapshot, selection),
  /** Ids of the images in stock that go by these names, by name. */
  named: (snapshot: Snapshot, names: readonly string[]): Map<string, number[]> => namedImages(snapshot, names),
  vocabulary: (snapshot: Snapshot): Vocabulary => vocabularyOf(snapshot),
  /** Names of attributes that a selection may ask for. */
  attributes: (snapshot: Snapshot): string[] => [...snapshot.attributeNames()],
  /** Codes of what was found on images in stock. */
  findings: (snapshot: Snapshot): string[] => [...snapshot.findingCodes()],
  classes: (snapshot: Snapshot): ClassTally[] => derived(snapshot).tallies,
  classExamples: (snapshot: Snapshot): Map<number, ClassSight> =>
    (derived(snapshot).sights ??= classExamples(snapshot)),
  ...checkQuestions,
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

/** Whether a question is about what is found in a stock. */
export const isAboutFindings = (question: Question): boolean => question === "stocktake" || question === "proofs";

/** Whether it is asked by whoever looks at a stock: jobs and plans ask other questions. */
export const isAskedLooking = (question: Question): boolean => ["facets", "cutoutGroups", "cutouts"].includes(question);

/** Whether a question looks at features, which are loaded when they are first needed. */
export function looksAtLearned(question: Question, argument: unknown): boolean {
  if (["stocktake", "proofs", "gates", "numbers"].includes(question)) return true;
  if (question === "cutouts") return orderNeedsLearned((argument as Argument<"cutouts">).by);
  if (question !== "page" && question !== "place") return false;
  const { order } = argument as Argument<"page">;
  return order !== undefined && needsLearned(order);
}

/** The digest of the version that a question is about; null where it is about none. */
export const versionAsked = (question: Question, argument: unknown): string | null =>
  Object.hasOwn(checkQuestions, question) ? (argument as CheckedPart).version : null;
