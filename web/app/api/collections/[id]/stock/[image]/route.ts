import { askedOrder, askedSelection } from "@/edge/asked-selection";
import { answer } from "@/edge/answer";
import { imageDetail } from "@larder/server/services/stock";

export const GET = answer(({ actor, id, query }) =>
  imageDetail(actor, id(), id("image"), query(askedSelection), query(askedOrder)),
);
