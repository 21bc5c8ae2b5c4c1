import { stockFilterSchema } from "@larder/core/stock/filter";
import { answer } from "@/edge/answer";
import { facets } from "@larder/server/services/stock";

export const GET = answer(({ actor, id, query }) => facets(actor, id(), query(stockFilterSchema)));
