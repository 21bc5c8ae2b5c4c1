/** The gates of a plan, held against what it leaves of the stock as it is now. */
import { closedGates, type GateResult } from "@larder/core/checks/gates";
import { Failure } from "@larder/core/model/failure";
import type { Plan } from "@larder/core/plans/plan";
import { ask } from "../../snapshot/ask";
import type { PlanQuestion } from "../../snapshot/questions";
import { allow } from "../access";
import type { Actor } from "../actor";
import { resolvePlan } from "../planning/resolve-plan";
import { settledIn } from "./scope";

/** `isWhole`: false where what objects look like takes too long to be compared while somebody waits. */
export type PlanGates = { results: GateResult[]; isWhole: boolean };

async function gatesNow(collection: number, plan: PlanQuestion): Promise<PlanGates> {
  const { thresholds, exempt } = await settledIn(collection);
  return ask("gates", collection, { plan, thresholds, exempt, selection: null, version: null });
}

export async function planGates(actor: Actor, collection: number, body: Plan): Promise<PlanGates> {
  await allow(actor, "see", { collection });
  return gatesNow(collection, await resolvePlan(collection, body));
}

/** Throws a Failure where a gate of the plan is closed. */
export function refuseClosed(results: readonly GateResult[]): void {
  const closed = closedGates(results);
  if (closed !== null) throw new Failure("gate-closed", closed, 409, { gates: results });
}

/** The same before a build begins, as far as it can be told at once; the build itself looks at all of them. */
export async function refuseClosedGates(collection: number, question: PlanQuestion): Promise<void> {
  if (Object.keys(question.plan.gates).length === 0) return;
  refuseClosed((await gatesNow(collection, question)).results);
}
