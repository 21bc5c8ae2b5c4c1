import { pictureOf } from "@larder/server/services/pictures";
import { answer } from "@/edge/answer";

const types: Record<string, string> = {
  jpg: "image/jpeg",
  png: "image/png",
  webp: "image/webp",
  gif: "image/gif",
  avif: "image/avif",
  bmp: "image/bmp",
};

export const GET = answer(async ({ actor, id }) => {
  const { bytes, extension } = await pictureOf(actor, id());
  return new Response(new Uint8Array(bytes), {
    headers: {
      "content-type": types[extension] ?? "application/octet-stream",
      "cache-control": "private, max-age=31536000, immutable",
      "x-content-type-options": "nosniff",
    },
  });
});
