import { answer } from "@/edge/answer";
import { planSteps } from "@larder/core/plans/flow";
import { planSchema } from "@larder/core/plans/plan";
import { planLeaving } from "@larder/server/services/planning/plan-flow";
import { z } from "zod";

const schema = z.object({ plan: planSchema, step: z.enum(planSteps) });

export const POST = answer(async ({ actor, id, body }) => {
  const { plan, step } = await body(schema);
  return planLeaving(actor, id(), plan, step);
});
