/** A plan's dealing made the stock's own splits. */
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { dealInto, type ActOutcome } from "../acts";
import { planRow } from "../plans";
import { resolvePlan } from "./resolve-plan";

/** Gives every image that the plan keeps the split it is dealt to now: one act, which can be taken back. */
export async function dealSplits(actor: Actor, planId: number): Promise<ActOutcome> {
  const collection = await allow(actor, "label", { plan: planId });
  const { name, body } = await planRow(planId);
  const splits = await ask("dealt", collection, await resolvePlan(collection, body));
  return dealInto(actor, collection, { plan: name, splits });
}
