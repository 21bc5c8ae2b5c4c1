import { answer } from "@/edge/answer";
import { planHistory } from "@larder/server/services/plans";

export const GET = answer(({ actor, id }) => planHistory(actor, id()));
