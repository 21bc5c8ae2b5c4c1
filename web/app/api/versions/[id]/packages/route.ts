import { answer } from "@/edge/answer";
import { startPackage } from "@larder/server/services/versions";
import { z } from "zod";

export const POST = answer(async ({ actor, id, body }) =>
  startPackage(actor, id(), await body(z.object({ format: z.string() }))),
);
