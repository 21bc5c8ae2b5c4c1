import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { createPlan, plansOf } from "@larder/server/services/plans";
import { z } from "zod";

export const GET = answer(({ id }) => plansOf(localActor, id()));
export const POST = answer(async ({ id, body }) => {
  const { name } = await body(z.object({ name: z.string().optional() }));
  return createPlan(localActor, id(), name ? { name } : {});
});
