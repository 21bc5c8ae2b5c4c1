import { answer } from "@/edge/answer";
import { dealSplits } from "@larder/server/services/planning/deal-splits";

export const POST = answer(({ actor, id }) => dealSplits(actor, id()));
