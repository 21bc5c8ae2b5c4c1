import { Failure } from "@larder/core/model/failure";
import sharp, { type Sharp } from "sharp";

export const thumbnailEdge = 400;

/** Columns and rows of the small grey picture that the near-copy hash compares: 16 × 16 bits. */
const hashColumns = 17;
const hashRows = 16;

/** An upright WebP whose longer edge is `thumbnailEdge` at most. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnail(bytes: Uint8Array, maxPixels: number): Promise<Uint8Array> {
  return (await thumbnailAndNearHash(bytes, maxPixels)).thumbnail;
}

/**
 * The near-copy hash of a small picture: a difference hash of 256 bits in hexadecimal. Each bit says whether a spot of
 * the picture, shrunk to 17 × 16 grey spots, is brighter than its right neighbour (N. Krawetz, "Kind of Like That", 2013).
 */
async function differenceHash(small: Sharp): Promise<string> {
  const grey = await small.greyscale().resize(hashColumns, hashRows, { fit: "fill" }).raw().toBuffer();
  let hash = "";
  for (let row = 0; row < hashRows; row++) {
    for (let nibble = 0; nibble < (hashColumns - 1) / 4; nibble++) {
      let bits = 0;
      for (let bit = 0; bit < 4; bit++) {
        const at = row * hashColumns + nibble * 4 + bit;
        bits = bits * 2 + ((grey[at] as number) > (grey[at + 1] as number) ? 1 : 0);
      }
      hash += bits.toString(16);
    }
  }
  return hash;
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
    const [webp, nearHash] = await Promise.all([sharp(data, { raw }).webp({ quality: 78, effort: 0 }).toBuffer(), differenceHash(sharp(data, { raw }))]);
    return { thumbnail: webp, nearHash };
  } catch (error) {
    throw new Failure("image-unreadable", `its pixels cannot be decoded (${(error as Error).message.split("\n")[0]})`);
  }
}

/** The near-copy hash of a thumbnail that was made before. */
export function nearHashOf(stored: Uint8Array): Promise<string> {
  return differenceHash(sharp(stored));
}
