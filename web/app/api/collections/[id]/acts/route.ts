import { act, actSchema, history } from "@larder/server/services/acts";
import { z } from "zod";
import { answer, one } from "@/edge/answer";

const querySchema = z.object({
  actor: one(z.string().optional()),
  kind: one(z.string().optional()),
  before: one(z.coerce.number().int().optional()),
  limit: one(z.coerce.number().int().min(1).max(1000).default(100)),
});

export const GET = answer(({ actor, id, query }) => history(actor, id(), query(querySchema)));
export const POST = answer(async ({ actor, id, body }) => act(actor, id(), await body(actSchema)));
