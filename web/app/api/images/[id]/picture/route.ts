import { answer } from "@/edge/answer";
import { readSource } from "@larder/server/services/source-bytes";
import { renderForScreen } from "@larder/server/pixels/render";
import { imageBytes } from "@larder/server/services/stock";

const types: Record<string, string> = {
  jpg: "image/jpeg",
  png: "image/png",
  webp: "image/webp",
  gif: "image/gif",
  avif: "image/avif",
  bmp: "image/bmp",
};

export const GET = answer(async ({ actor, id }) => {
  const { sha256, extension, orientation } = await imageBytes(actor, id());
  const shown = await renderForScreen(await readSource(sha256), orientation, extension);
  return new Response(new Uint8Array(shown.bytes), {
    headers: {
      "content-type": types[shown.extension] ?? "application/octet-stream",
      "cache-control": "private, max-age=31536000, immutable",
      "x-content-type-options": "nosniff",
    },
  });
});
