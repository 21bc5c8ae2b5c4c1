/** The bytes of pictures as pages show them. */
import { blobs } from "../blobs/store";
import { renderForScreen } from "../pixels/render";
import { thumbnail } from "../pixels/thumbnail";
import { settings } from "../settings";
import type { Actor } from "./actor";
import { readSource } from "./source-bytes";
import { imageBytes } from "./stock";

/** The thumbnail of an image, a WebP: the one that was made when it came in, else made now. */
export async function thumbnailOf(actor: Actor, image: number): Promise<Uint8Array> {
  const { sha256 } = await imageBytes(actor, image);
  const store = blobs();
  if (await store.hasDerived("thumbnails", sha256)) return store.readDerived("thumbnails", sha256);
  return thumbnail(await readSource(sha256), settings().limits.pixels);
}

/** The whole picture, upright and in a format that browsers show; `extension` names it. */
export async function pictureOf(actor: Actor, image: number): Promise<{ bytes: Uint8Array; extension: string }> {
  const { sha256, extension, orientation } = await imageBytes(actor, image);
  return renderForScreen(await readSource(sha256), orientation, extension);
}
