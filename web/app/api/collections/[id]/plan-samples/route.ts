import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { planSamples } from "@larder/server/services/plans";
import { z } from "zod";

const schema = z.object({ plan: planSchema, turn: z.number().int().min(0) });

export const POST = answer(async ({ actor, id, body }) => {
  const { plan, turn } = await body(schema);
  return planSamples(actor, id(), plan, turn);
});
