import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { imageDetail, stockFilterSchema } from "@larder/server/services/stock";

export const GET = answer(({ id, query }) => imageDetail(localActor, id(), id("image"), query(stockFilterSchema)));
