import { thumbnailOf } from "@larder/server/services/pictures";
import { answer } from "@/edge/answer";

export const GET = answer(async ({ actor, id }) => {
  const bytes = await thumbnailOf(actor, id());
  return new Response(new Uint8Array(bytes), {
    headers: { "content-type": "image/webp", "cache-control": "private, max-age=31536000, immutable" },
  });
});
