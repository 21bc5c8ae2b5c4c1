import type { Plan } from "@larder/core/plans/plan";
import type { ForeseenLosses } from "@larder/core/versions/foreseen-losses";
import { allow } from "../access";
import type { Actor } from "../actor";
import { inCountingThread } from "./in-counting-thread";
import { resolvePlan } from "./resolve-plan";

/** What each format will lose of a plan's data set. Where `signal` says that nobody waits any more it is given up. */
export async function lossesOfPlan(
  actor: Actor,
  collection: number,
  plan: Plan,
  signal?: AbortSignal,
): Promise<ForeseenLosses[]> {
  await allow(actor, "see", { collection });
  return inCountingThread("loseMoved", collection, await resolvePlan(collection, plan), signal);
}
