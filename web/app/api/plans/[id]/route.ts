import { answer } from "@/edge/answer";
import { deletePlan, planOf, savePlan } from "@larder/server/services/plans";
import { z } from "zod";

const schema = z.object({
  name: z.string().optional(),
  body: z.unknown().optional(),
  yaml: z.string().max(200_000).optional(),
});

export const GET = answer(({ actor, id }) => planOf(actor, id()));
export const PATCH = answer(async ({ actor, id, body }) => savePlan(actor, id(), await body(schema)));
export const DELETE = answer(({ actor, id }) => deletePlan(actor, id()));
