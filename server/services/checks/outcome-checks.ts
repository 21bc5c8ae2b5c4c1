/** The checks of what a plan leaves of the stock, as it is about to be frozen. */
import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { gatedChecks, gateResults } from "@larder/core/checks/gates";
import { looksChecks, allChecks, takeStock } from "@larder/core/checks/stocktake";
import { worstFirst } from "@larder/core/model/finding";
import type { Flow } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import { describeFinding } from "@larder/core/checks/shown-finding";
import { outcomeOf } from "@larder/core/snapshot/outcome";
import type { SlottedStock } from "@larder/core/snapshot/plan-input";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { exemptSlots } from "../../snapshot/checked-part";
import { canCompare } from "../../snapshot/load-comparison";
import { deliveredFindings } from "./delivered-findings";
import { refuseClosed } from "./gates";
import { settledIn } from "./scope";
import { asEntry } from "./check-entry";
import { withoutDismissed } from "./stocktake";

/** Whether checks look at what objects look like: where that takes long, only where a gate goes by it. */
export const needsLooks = (snapshot: Snapshot, { gates }: Plan): boolean =>
  canCompare(snapshot) || gatedChecks(gates).some((check) => looksChecks.includes(check));

/**
 * What is found in a plan's outcome and in what was delivered, a sentence each, worst first. Throws a Failure where a gate
 * of the plan is closed. `snapshot` has what objects look like beside it where `needsLooks` says so.
 */
export async function outcomeSentences(
  collection: number,
  plan: Plan,
  { snapshot, slotted, flow }: { snapshot: Snapshot; slotted: SlottedStock; flow: Flow },
): Promise<string[]> {
  const [{ thresholds, exempt, dismissals }, delivered] = await Promise.all([
    settledIn(collection),
    deliveredFindings(collection),
  ]);
  const outcome = outcomeOf(snapshot, slotted, flow);
  const stock = checkedStockOf(outcome.snapshot, outcome.slots, needsLooks(snapshot, plan) ? snapshot.learned : null);
  const findings = takeStock(stock, thresholds, exemptSlots(snapshot, exempt), allChecks);
  refuseClosed(gateResults(plan.gates, findings));
  const entries = findings.map((finding) => asEntry(describeFinding(outcome.snapshot, finding)));
  return withoutDismissed([...entries, ...delivered], dismissals)
    .sort(worstFirst)
    .map(({ sentence }) => sentence);
}
