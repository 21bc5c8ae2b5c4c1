import { Failure } from "@larder/core/model/failure";
import type { Plan } from "@larder/core/plans/plan";
import { planFromYaml } from "@larder/core/plans/plan-text";
import { expandSaved } from "@larder/core/plans/saved-selections";
import { readFileSync } from "node:fs";

/** The plan in a file. Throws a Failure where it is none, or needs what only the application knows. */
export function readPlan(file: string): Plan {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch {
    throw new Failure("plan-missing", `There is no plan ${file}.`);
  }
  const plan = planFromYaml(text);
  if (plan.split.like !== null)
    throw new Failure("plan-application", "split.like names a version, which the application alone knows.");
  expandSaved(plan.select.where, new Map());
  return plan;
}
