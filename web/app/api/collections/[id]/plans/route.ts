import { answer } from "@/edge/answer";
import { createPlan, plansOf } from "@larder/server/services/plans";
import { z } from "zod";

export const GET = answer(({ actor, id }) => plansOf(actor, id()));
export const POST = answer(async ({ actor, id, body }) => {
  const { name } = await body(z.object({ name: z.string().optional() }));
  return createPlan(actor, id(), name ? { name } : {});
});
