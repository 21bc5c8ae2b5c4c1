/** What is worked out of a snapshot once a revision: the light stock, its classes counted, what steps of plans came to. */
import { tallyClasses, type ClassTally } from "@larder/core/checks/tally";
import type { Split } from "@larder/core/model/item";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { StepResults } from "@larder/core/plans/step-results";
import type { ClassSight } from "@larder/core/snapshot/class-examples";
import { onceARevision } from "@larder/core/snapshot/once-a-revision";
import { planInput, slottedStock, type SlottedStock } from "@larder/core/snapshot/plan-input";
import type { Snapshot } from "@larder/core/snapshot/snapshot";

type Derived = {
  slotted: SlottedStock;
  /** What steps of plans came to, apart for each earlier version that they go by. */
  results: Map<number | null, StepResults>;
  tallies: ClassTally[];
  sights: Map<number, ClassSight> | null;
};

export const derived = onceARevision((snapshot): Derived => {
  const slotted = slottedStock(snapshot);
  return { slotted, results: new Map(), tallies: tallyClasses(snapshot, slotted.slots), sights: null };
});

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
