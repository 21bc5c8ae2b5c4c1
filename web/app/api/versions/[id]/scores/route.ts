import { answer } from "@/edge/answer";
import { addScores, newScoresSchema } from "@larder/server/services/version-scores";

export const POST = answer(async ({ actor, id, body }) => addScores(actor, id(), await body(newScoresSchema)), {
  bodyBytes: 5 << 20,
});
