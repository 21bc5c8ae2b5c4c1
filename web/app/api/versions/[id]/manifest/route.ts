import { answer } from "@/edge/answer";
import { manifestOf } from "@larder/server/services/version-page";
import { Readable } from "node:stream";

/** The manifest as a file to save. */
export const GET = answer(async ({ actor, id }) => {
  const { fileName, stream } = await manifestOf(actor, id());
  return new Response(Readable.toWeb(stream) as ReadableStream<Uint8Array>, {
    headers: {
      "content-type": "application/jsonl; charset=utf-8",
      "content-disposition": `attachment; filename="${fileName}"`,
    },
  });
});
