import { answer } from "@/edge/answer";
import { blobs } from "@larder/server/blobs/store";
import { thumbnail } from "@larder/server/pixels/thumbnail";
import { readSource } from "@larder/server/services/source-bytes";
import { imageBytes } from "@larder/server/services/stock";
import { settings } from "@larder/server/settings";

export const GET = answer(async ({ actor, id }) => {
  const { sha256 } = await imageBytes(actor, id());
  const store = blobs();
  const bytes = (await store.hasDerived("thumbnails", sha256))
    ? await store.readDerived("thumbnails", sha256)
    : await thumbnail(await readSource(sha256), settings().limits.pixels);
  return new Response(new Uint8Array(bytes), {
    headers: { "content-type": "image/webp", "cache-control": "private, max-age=31536000, immutable" },
  });
});
