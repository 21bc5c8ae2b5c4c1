/** What is worked out of a snapshot once a revision: the light stock, its classes counted, what steps of plans came to. */
import { tallyClasses, type ClassTally } from "@larder/core/checks/tally";
import type { Split } from "@larder/core/model/item";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { StepResults } from "@larder/core/plans/step-results";
import type { ClassSight } from "@larder/core/snapshot/class-examples";
import { planInput, slottedStock, type SlottedStock } from "@larder/core/snapshot/plan-input";
import type { Snapshot } from "@larder/core/snapshot/snapshot";

type Derived = {
  revision: number;
  slotted: SlottedStock;
  /** What steps of plans came to, apart for each earlier version that they go by. */
  results: Map<number | null, StepResults>;
  tallies: ClassTally[];
  sights: Map<number, ClassSight> | null;
};
const derivedOf = new WeakMap<Snapshot, Derived>();

export function derived(snapshot: Snapshot): Derived {
  const known = derivedOf.get(snapshot);
  if (known?.revision === snapshot.revision) return known;
  const slotted = slottedStock(snapshot);
  const anew: Derived = {
    revision: snapshot.revision,
    slotted,
    results: new Map(),
    tallies: tallyClasses(snapshot, slotted.slots),
    sights: null,
  };
  derivedOf.set(snapshot, anew);
  return anew;
}

/** A plan with the splits of the earlier version that it goes by. */
export type PlanQuestion = { plan: Plan; like: ReadonlyMap<string, Split> | null };

/** The plan run on the stock. */
export function flowOf(snapshot: Snapshot, { plan, like }: PlanQuestion): Flow {
  const { slotted, results } = derived(snapshot);
  const version = like ? plan.split.like : null;
  const kept = results.get(version) ?? new StepResults();
  results.set(version, kept);
  return runFlow({ ...planInput(snapshot, slotted, plan, like), results: kept }, plan);
}
