import { askedOrder, askedSelection } from "@/edge/asked-selection";
import { z } from "zod";
import { answer, one } from "@/edge/answer";
import { matchingIds } from "@larder/server/services/stock";

/** What lies between two places of the grid. */
const pageSchema = z.object({
  start: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(10_000)),
});

export const GET = answer(({ actor, id, query }) =>
  matchingIds(actor, id(), query(askedSelection), { ...query(pageSchema), order: query(askedOrder) }),
);
