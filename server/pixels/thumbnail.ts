import { greySpots } from "@larder/core/imaging/grey-spots";
import { perceptualHash } from "@larder/core/imaging/perceptual-hash";
import type { Pixels } from "@larder/core/learning/features";
import { Failure } from "@larder/core/model/failure";
import sharp, { type Sharp } from "sharp";
import { openImage } from "./open";

export const thumbnailEdge = 400;

const webp = { quality: 78, effort: 0 };

/** The picture upright, its longer edge `thumbnailEdge` at most, never enlarged. */
async function shrunk(bytes: Uint8Array, maxPixels: number): Promise<Sharp> {
  return (await openImage(bytes, maxPixels, { failOn: "truncated" }))
    .rotate()
    .resize(thumbnailEdge, thumbnailEdge, { fit: "inside", withoutEnlargement: true });
}

function undecodable(error: unknown): Failure {
  return new Failure("image-unreadable", `its pixels cannot be decoded (${(error as Error).message.split("\n")[0]})`);
}

/**
 * An upright WebP whose longer edge is `thumbnailEdge` at most. Throws a Failure where the pixels cannot be decoded
 * whole.
 */
export async function thumbnail(bytes: Uint8Array, maxPixels: number): Promise<Uint8Array> {
  try {
    return await (await shrunk(bytes, maxPixels)).webp(webp).toBuffer();
  } catch (error) {
    throw undecodable(error);
  }
}

/** Both at once, from one decoding. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnailAndNearHash(
  bytes: Uint8Array,
  maxPixels: number,
): Promise<{ thumbnail: Uint8Array; nearHash: string }> {
  try {
    const { data, ...size } = await decodedThumbnail(bytes, maxPixels);
    const raw = { ...size, channels: size.channels as 1 | 2 | 3 | 4 };
    const made = sharp(data, { raw }).webp(webp).toBuffer();
    // Worked out while the thumbnail is encoded.
    const nearHash = perceptualHash(greySpots(data, size.width, size.height, size.channels));
    return { thumbnail: await made, nearHash };
  } catch (error) {
    throw undecodable(error);
  }
}

/** The pixels of a picture, upright and at the size of its thumbnail. Throws where they cannot be decoded. */
export async function decodedThumbnail(bytes: Uint8Array, maxPixels: number): Promise<Pixels> {
  const small = await shrunk(bytes, maxPixels);
  const { data, info } = await small
    .toColourspace("srgb")
    .raw({ depth: "uchar" })
    .toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height, channels: info.channels };
}

/** The near-copy hash of a thumbnail that was made before. */
export async function nearHashOf(stored: Uint8Array): Promise<string> {
  const { data, info } = await sharp(stored).raw().toBuffer({ resolveWithObject: true });
  return perceptualHash(greySpots(data, info.width, info.height, info.channels));
}
