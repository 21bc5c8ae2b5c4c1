/** What a plan comes to, counted on the stock as it is now; nothing is built. */
import type { FlowStep } from "@larder/core/plans/flow";
import type { Split } from "@larder/core/model/item";
import type { Plan } from "@larder/core/plans/plan";
import { planToYaml } from "@larder/core/plans/plan-text";
import type { Leak } from "@larder/core/plans/leaks";
import type { GroupTally } from "@larder/core/plans/split-images";
import { sql } from "drizzle-orm";
import { db } from "../../db/database";
import { numberOf } from "../../db/query";
import { versions } from "../../db/schema";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { inCountingThread } from "./in-counting-thread";
import { resolvePlan } from "./resolve-plan";

export type PlanFlow = {
  steps: FlowStep[];
  emptySplits: Split[];
  kept: Record<Split, number>;
  targets: Record<Split, number> | null;
  together: GroupTally | null;
  /** Near-copies that are dealt apart. */
  leaks: Leak[];
  unchanged: number;
  /** How many images come out at most. */
  outputs: number;
  /** Classes of the stock, as relabeling sees them. */
  classes: { name: string; images: number; objects: number }[];
  yaml: string;
  nextVersion: number;
};

export async function planFlow(actor: Actor, collection: number, body: Plan, signal?: AbortSignal): Promise<PlanFlow> {
  await allow(actor, "see", { collection });
  const question = await resolvePlan(collection, body);
  const [flow, nextVersion] = await Promise.all([
    ask("flow", collection, question),
    numberOf(db(), sql`select coalesce(max(number), 0) + 1 as n from ${versions} where collection_id = ${collection}`),
  ]);
  const moved = flow.needsLabels ? await inCountingThread("countMoved", collection, question, signal) : null;
  const { emptySplits, kept, targets, together, leaks, outputs, tallies } = flow;
  return {
    steps: [...flow.steps, ...(moved?.steps ?? [])],
    unchanged: moved?.unchanged ?? flow.unchanged,
    emptySplits,
    kept,
    targets,
    together,
    leaks,
    outputs,
    classes: tallies.map(({ name, images, objects }) => ({ name, images, objects })),
    yaml: planToYaml(body),
    nextVersion,
  };
}

export type Leaving = { reason: string; count: number; images: { id: number; name: string }[] };

/** Which images leave a plan at a step, by the rule that does it. */
export async function planLeaving(actor: Actor, collection: number, body: Plan, step: string): Promise<Leaving[]> {
  await allow(actor, "see", { collection });
  return ask("leaving", collection, { ...(await resolvePlan(collection, body)), step });
}
