import { sendSteps, stepsSchema } from "@larder/server/services/send-steps";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, id, body }) => sendSteps(actor, id(), await body(stepsSchema)), {
  bodyBytes: 32 << 20,
});
