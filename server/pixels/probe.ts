import { Failure } from "@larder/core/model/failure";
import type { ImageFacts } from "@larder/core/formats/settle";
import sharp, { type Metadata } from "sharp";

const extensions: Record<string, string> = { jpeg: "jpg", png: "png", webp: "webp", tiff: "tif", gif: "gif", heif: "avif" };

/** Upright size, camera flag and kind of an image from its header, and whether it carries EXIF. Throws a Failure where it is none or too large. */
export async function probe(bytes: Uint8Array, maxPixels: number): Promise<ImageFacts & { extension: string; exif: boolean }> {
  let metadata: Metadata;
  try {
    metadata = await sharp(bytes, { limitInputPixels: false }).metadata();
  } catch {
    throw new Failure("image-unreadable", "it is not an image that can be decoded");
  }
  const { width, height, format } = metadata;
  const extension = extensions[format ?? ""];
  if (!width || !height || !extension) throw new Failure("image-unreadable", `it is ${format ?? "nothing"} that Larder does not take`);
  if (width * height > maxPixels) {
    throw new Failure("image-unreadable", `it has ${width.toLocaleString("en-US")} × ${height.toLocaleString("en-US")} pixels, more than the ${Math.round(maxPixels / 1e6)} megapixels allowed`);
  }
  const orientation = metadata.orientation ?? 1;
  const turned = orientation >= 5;
  return { width: turned ? height : width, height: turned ? width : height, orientation, extension, exif: metadata.exif !== undefined };
}
