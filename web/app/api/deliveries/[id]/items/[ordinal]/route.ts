import { answer } from "@/edge/answer";
import { previewPicture } from "@larder/server/services/intake/preview";
import { z } from "zod";

export const GET = answer(async ({ actor, id, url }) => {
  const ordinal = z.coerce.number().int().min(0).parse(url.pathname.split("/").pop());
  const bytes = await previewPicture(actor, id(), ordinal);
  return new Response(new Uint8Array(bytes), {
    headers: { "content-type": "image/webp", "cache-control": "private, max-age=600" },
  });
});
