import { addTime, timeSchema } from "@larder/server/services/bench";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, id, body }) => ({
  seconds: await addTime(actor, id(), await body(timeSchema)),
}));
