import { askedOrder, askedSelection } from "@/edge/asked-selection";
import { answer, one } from "@/edge/answer";
import { stockPage } from "@larder/server/services/stock";
import { z } from "zod";

const pageSchema = z.object({
  start: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(500)),
});

export const GET = answer(({ actor, id, query }) =>
  stockPage(actor, id(), query(askedSelection), { ...query(pageSchema), order: query(askedOrder) }),
);
