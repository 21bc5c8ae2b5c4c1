import { planSchema, type Plan } from "@larder/core/plans/plan";

/** What is wrong with a plan as it would be, in a sentence; null where nothing is. */
export function problemOf(plan: Plan): string | null {
  const parsed = planSchema.safeParse(plan);
  return parsed.success ? null : (parsed.error.issues[0]?.message ?? "That does not fit.");
}
