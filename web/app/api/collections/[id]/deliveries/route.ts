import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { deliveriesOf } from "@larder/server/services/deliveries";
import { beginUpload, receiveFrom, sourceSchema, uploadSchema } from "@larder/server/services/intake/receive";
import { z } from "zod";

const schema = z.union([uploadSchema.extend({ kind: z.literal("files") }), sourceSchema]);

export const GET = answer(({ id }) => deliveriesOf(localActor, id()));
export const POST = answer(async ({ id, body }) => {
  const input = await body(schema);
  return input.kind === "files" ? beginUpload(localActor, id(), input) : receiveFrom(localActor, id(), input);
});
