import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { lossesOfPlan } from "@larder/server/services/planning/foreseen-losses";

export const POST = answer(async ({ request, actor, id, body }) =>
  lossesOfPlan(actor, id(), await body(planSchema), request.signal),
);
