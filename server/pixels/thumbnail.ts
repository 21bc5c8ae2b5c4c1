import { hashedEdge, perceptualHash } from "@larder/core/imaging/perceptual-hash";
import { Failure } from "@larder/core/model/failure";
import sharp, { type Sharp } from "sharp";

export const thumbnailEdge = 400;

/** An upright WebP whose longer edge is `thumbnailEdge` at most. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnail(bytes: Uint8Array, maxPixels: number): Promise<Uint8Array> {
  return (await thumbnailAndNearHash(bytes, maxPixels)).thumbnail;
}

/** The perceptual hash of a small picture, shrunk to the few grey spots that are hashed. */
async function hashOf(small: Sharp): Promise<string> {
  return perceptualHash(await small.greyscale().resize(hashedEdge, hashedEdge, { fit: "fill" }).raw().toBuffer());
}

/** Both at once, from one decoding. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnailAndNearHash(bytes: Uint8Array, maxPixels: number): Promise<{ thumbnail: Uint8Array; nearHash: string }> {
  try {
    const { data, info } = await sharp(bytes, { limitInputPixels: maxPixels, failOn: "truncated" })
      .rotate()
      .resize(thumbnailEdge, thumbnailEdge, { fit: "inside", withoutEnlargement: true })
      .toColourspace("srgb")
      .raw({ depth: "uchar" })
      .toBuffer({ resolveWithObject: true });
    const raw = { width: info.width, height: info.height, channels: info.channels };
    const [webp, nearHash] = await Promise.all([sharp(data, { raw }).webp({ quality: 78, effort: 0 }).toBuffer(), hashOf(sharp(data, { raw }))]);
    return { thumbnail: webp, nearHash };
  } catch (error) {
    throw new Failure("image-unreadable", `its pixels cannot be decoded (${(error as Error).message.split("\n")[0]})`);
  }
}

/** The near-copy hash of a thumbnail that was made before. */
export function nearHashOf(stored: Uint8Array): Promise<string> {
  return hashOf(sharp(stored));
}
