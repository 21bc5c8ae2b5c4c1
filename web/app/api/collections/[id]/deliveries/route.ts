import { answer } from "@/edge/answer";
import { deliveriesOf } from "@larder/server/services/deliveries";
import { beginUpload, receiveFrom, sourceSchema, uploadSchema } from "@larder/server/services/intake/receive";
import { z } from "zod";

const schema = z.union([uploadSchema.extend({ kind: z.literal("files") }), sourceSchema]);

export const GET = answer(({ actor, id }) => deliveriesOf(actor, id()));
export const POST = answer(
  async ({ actor, id, body }) => {
    const input = await body(schema);
    return input.kind === "files" ? beginUpload(actor, id(), input) : receiveFrom(actor, id(), input);
  },
  {
    bodyBytes: 64 << 20,
  },
);
