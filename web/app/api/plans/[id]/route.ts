import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { deletePlan, planRow, savePlan } from "@larder/server/services/plans";
import { z } from "zod";

const schema = z.object({
  name: z.string().optional(),
  body: z.unknown().optional(),
  yaml: z.string().max(200_000).optional(),
});

export const GET = answer(({ id }) => planRow(id()));
export const PATCH = answer(async ({ id, body }) => savePlan(localActor, id(), await body(schema)));
export const DELETE = answer(({ id }) => deletePlan(localActor, id()));
