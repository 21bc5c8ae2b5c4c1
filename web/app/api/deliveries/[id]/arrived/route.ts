import { answer } from "@/edge/answer";
import { filesArrived } from "@larder/server/services/intake/receive";
import { z } from "zod";

export const POST = answer(async ({ actor, id, body }) =>
  filesArrived(actor, id(), await body(z.object({ bytes: z.number().int().min(0).optional() }))),
);
