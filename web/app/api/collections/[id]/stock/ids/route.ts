import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { matchingIds, stockFilterSchema } from "@larder/server/services/stock";

export const GET = answer(({ id, query }) => matchingIds(localActor, id(), query(stockFilterSchema)));
