import { answer } from "@/edge/answer";
import { knownSchema, noteKnownFiles } from "@larder/server/services/intake/receive";

export const POST = answer(async ({ actor, id, body }) => noteKnownFiles(actor, id(), await body(knownSchema)), {
  bodyBytes: 24 << 20,
});
