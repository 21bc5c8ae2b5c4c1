import { keypointPairsSchema, setKeypointPairs } from "@larder/server/services/classes/keypoint-pairs";
import { answer } from "@/edge/answer";

export const PUT = answer(async ({ actor, id, body }) =>
  setKeypointPairs(actor, id(), (await body(keypointPairsSchema)).pairs),
);
