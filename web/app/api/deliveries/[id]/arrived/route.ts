import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { filesArrived } from "@larder/server/services/intake/receive";
import { z } from "zod";

export const POST = answer(async ({ id, body }) =>
  filesArrived(localActor, id(), await body(z.object({ bytes: z.number().int().min(0).optional() }))),
);
