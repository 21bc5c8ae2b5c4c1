import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { facets, stockFilterSchema } from "@larder/server/services/stock";

export const GET = answer(({ id, query }) => facets(localActor, id(), query(stockFilterSchema)));
