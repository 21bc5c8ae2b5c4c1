import { answer } from "@/edge/answer";
import { scoresOf } from "@larder/server/services/version-scores";

export const GET = answer(({ actor, id }) => scoresOf(actor, id()));
