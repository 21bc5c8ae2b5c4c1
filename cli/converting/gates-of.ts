import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { gatedChecks, gateResults, type GateResult } from "@larder/core/checks/gates";
import { takeStock } from "@larder/core/checks/stocktake";
import type { Plan } from "@larder/core/plans/plan";
import type { Outcome } from "@larder/core/snapshot/outcome";

/** The gates of a plan on what it leaves of a source. */
export function gatesOf({ gates }: Plan, { snapshot, slots }: Outcome): GateResult[] {
  const stock = checkedStockOf(snapshot, slots, snapshot.learned);
  return gateResults(gates, takeStock(stock, {}, new Map(), gatedChecks(gates)));
}
