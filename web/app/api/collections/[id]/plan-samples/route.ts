import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { evidenceSchema, planEvidence } from "@larder/server/services/planning/evidence";

const schema = evidenceSchema.extend({ plan: planSchema });

export const POST = answer(async ({ actor, id, body }) => {
  const { plan, ...asked } = await body(schema);
  return planEvidence(actor, id(), plan, asked);
});
