import { stockFilterSchema } from "@larder/core/stock/filter";
import { answer } from "@/edge/answer";
import { imageDetail } from "@larder/server/services/stock";

export const GET = answer(({ actor, id, query }) => imageDetail(actor, id(), id("image"), query(stockFilterSchema)));
