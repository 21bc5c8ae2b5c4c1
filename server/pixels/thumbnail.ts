import { Failure } from "@larder/core/model/failure";
import sharp from "sharp";

export const thumbnailEdge = 400;

/** An upright WebP whose longer edge is `thumbnailEdge` at most. Throws a Failure where the pixels cannot be decoded whole. */
export async function thumbnail(bytes: Uint8Array, maxPixels: number): Promise<Uint8Array> {
  try {
    return await sharp(bytes, { limitInputPixels: maxPixels, failOn: "truncated" })
      .rotate()
      .resize(thumbnailEdge, thumbnailEdge, { fit: "inside", withoutEnlargement: true })
      .webp({ quality: 78, effort: 0 })
      .toBuffer();
  } catch (error) {
    throw new Failure("image-unreadable", `its pixels cannot be decoded (${(error as Error).message.split("\n")[0]})`);
  }
}
