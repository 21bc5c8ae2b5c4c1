import { hashedEdge, perceptualHash } from "@larder/core/imaging/perceptual-hash";
import { Failure } from "@larder/core/model/failure";
import sharp, { type Sharp } from "sharp";

export const thumbnailEdge = 400;

const webp = { quality: 78, effort: 0 };

/** The picture upright, its longer edge `thumbnailEdge` at most, never enlarged. */
function shrunk(bytes: Uint8Array, maxPixels: number): Sharp {
  return sharp(bytes, { limitInputPixels: maxPixels, failOn: "truncated" }).rotate().resize(thumbnailEdge, thumbnailEdge, { fit: "inside", withoutEnlargement: true });
}

function undecodable(error: unknown): Failure {
  return new Failure("image-unreadable", `its pixels cannot be decoded (${(error as Error).message.split("\n")[0]})`);
}

/** An upright WebP whose longer edge is `thumbnailEdge` at most. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnail(bytes: Uint8Array, maxPixels: number): Promise<Uint8Array> {
  try {
    return await shrunk(bytes, maxPixels).webp(webp).toBuffer();
  } catch (error) {
    throw undecodable(error);
  }
}

/** The perceptual hash of a small picture, shrunk to the few grey spots that are hashed. */
async function hashOf(small: Sharp): Promise<string> {
  return perceptualHash(await small.greyscale().resize(hashedEdge, hashedEdge, { fit: "fill" }).raw().toBuffer());
}

/** Both at once, from one decoding. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnailAndNearHash(bytes: Uint8Array, maxPixels: number): Promise<{ thumbnail: Uint8Array; nearHash: string }> {
  try {
    const { data, info } = await shrunk(bytes, maxPixels).toColourspace("srgb").raw({ depth: "uchar" }).toBuffer({ resolveWithObject: true });
    const raw = { width: info.width, height: info.height, channels: info.channels };
    const [made, nearHash] = await Promise.all([sharp(data, { raw }).webp(webp).toBuffer(), hashOf(sharp(data, { raw }))]);
    return { thumbnail: made, nearHash };
  } catch (error) {
    throw undecodable(error);
  }
}

/** The near-copy hash of a thumbnail that was made before. */
export function nearHashOf(stored: Uint8Array): Promise<string> {
  return hashOf(sharp(stored));
}
