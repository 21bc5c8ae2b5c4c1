import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { readSource } from "@larder/server/services/source-bytes";
import { render, renderedExtension } from "@larder/server/pixels/render";
import { imageBytes } from "@larder/server/services/stock";

const types: Record<string, string> = { jpg: "image/jpeg", png: "image/png", webp: "image/webp", gif: "image/gif", avif: "image/avif", tif: "image/png" };

export const GET = answer(async ({ id }) => {
  const { sha256, extension, orientation } = await imageBytes(localActor, id());
  const transform = { orientation, resize: null, flipSideways: false };
  const bytes = await render(await readSource(sha256), transform, extension);
  return new Response(new Uint8Array(bytes), { headers: { "content-type": types[renderedExtension(extension, transform)] ?? "application/octet-stream", "cache-control": "private, max-age=31536000, immutable", "x-content-type-options": "nosniff" } });
});
