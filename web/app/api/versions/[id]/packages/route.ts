import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { startPackage } from "@larder/server/services/versions";
import { z } from "zod";

export const POST = answer(async ({ id, body }) =>
  startPackage(localActor, id(), await body(z.object({ format: z.string() }))),
);
