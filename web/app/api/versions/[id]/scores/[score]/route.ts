import { answer } from "@/edge/answer";
import { removeScores } from "@larder/server/services/version-scores";

export const DELETE = answer(({ actor, id }) => removeScores(actor, id(), id("score")));
