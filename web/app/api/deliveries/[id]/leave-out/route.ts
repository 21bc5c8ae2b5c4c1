import { answer } from "@/edge/answer";
import { leaveOut, leaveOutSchema } from "@larder/server/services/deliveries";

export const POST = answer(async ({ actor, id, body }) => leaveOut(actor, id(), await body(leaveOutSchema)), {
  bodyBytes: 2 << 20,
});
