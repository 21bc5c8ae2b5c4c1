import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { planFlow } from "@larder/server/services/planning/plan-flow";

export const POST = answer(async ({ actor, id, body, request }) =>
  planFlow(actor, id(), await body(planSchema), request.signal),
);
