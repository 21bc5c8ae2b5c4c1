import { answer } from "@/edge/answer";
import { leaveOut } from "@larder/server/services/deliveries";
import { z } from "zod";

const schema = z.object({ ordinals: z.array(z.number().int().min(0)).min(1).max(100_000), leftOut: z.boolean() });

export const POST = answer(async ({ actor, id, body }) => leaveOut(actor, id(), await body(schema)), {
  bodyBytes: 2 << 20,
});
