import { answer, one } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { stockFilterSchema, stockPage } from "@larder/server/services/stock";
import { z } from "zod";

const pageSchema = z.object({
  offset: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(500)),
});

export const GET = answer(({ id, query }) => stockPage(localActor, id(), query(stockFilterSchema), query(pageSchema)));
