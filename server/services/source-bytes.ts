import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import { blobs, sha256 } from "../blobs/store";
import { db } from "../db/database";
import { links } from "../db/schema";
import { fetchAddress } from "../files/fetch-address";
import { settings } from "../settings";

/**
 * The bytes of a picture in stock by their hash: from the store, or fetched from where they are kept as a link. A link
 * that gives other bytes than it did is refused: what was labeled is not what is there now.
 */
export async function readSource(hash: string): Promise<Uint8Array> {
  const store = blobs();
  if (await store.has(hash)) return store.read(hash);
  const [link] = await db().select().from(links).where(eq(links.sha256, hash));
  if (!link) throw new Failure("bytes-missing", "The bytes of this picture are not in the store any more.", 404);
  const bytes = await fetchAddress(link.url, settings().addresses);
  if (sha256(bytes) !== hash)
    throw new Failure("link-changed", `${link.url} gives another picture than when it was taken in.`, 409);
  return bytes;
}
