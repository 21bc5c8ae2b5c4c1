/** Gates: how much of a finding a plan lets through before its data set may be built. */
import type { Gates } from "../plans/gates";
import type { CheckCode } from "./codes";
import { allChecks, type StockFinding } from "./stocktake";

export type GateResult = {
  code: CheckCode;
  /** So many may be found. */
  most: number;
  /** So many are found: objects, images, classes or splits, as the check counts them. */
  found: number;
  counts: (typeof allChecks)[number]["counts"];
  isOpen: boolean;
  /** What is found, a sentence each. */
  sentences: string[];
};

/** The checks that gates go by. */
export const gatedChecks = (gates: Gates) => allChecks.filter(({ code }) => Object.hasOwn(gates, code));

/** Each gate of a plan held against what was found in what the plan leaves of the stock. */
export function gateResults(gates: Gates, findings: readonly Pick<StockFinding, "code" | "count" | "sentence">[]) {
  return gatedChecks(gates).map(({ code, counts }): GateResult => {
    const most = gates[code] ?? 0;
    const meant = findings.filter((one) => one.code === code);
    const found =
      counts === "objects" || counts === "images" ? meant.reduce((sum, { count }) => sum + count, 0) : meant.length;
    return { code, most, found, counts, isOpen: found <= most, sentences: meant.map(({ sentence }) => sentence) };
  });
}

/** Why gates are closed, a sentence; null where all are open. */
export function closedGates(results: readonly GateResult[]): string | null {
  const closed = results.filter(({ isOpen }) => !isOpen);
  if (closed.length === 0) return null;
  const [first] = closed as [GateResult];
  const which = closed.map(({ code, found, most }) => `${code} (${found} found, at most ${most} allowed)`).join(", ");
  const gates = closed.length === 1 ? "A gate of the plan is closed" : `${closed.length} gates of the plan are closed`;
  return `${gates}: ${which}. ${first.sentences[0] ?? ""} Mend it, or change the plan's gates.`;
}
