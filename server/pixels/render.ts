import { leavesBytes, type ImageTransform } from "@larder/core/imaging/transform";
import sharp from "sharp";

/** The kind of file a transform's output is: the source's own where it can be written well, else PNG. */
export function renderedExtension(source: string, transform: ImageTransform): string {
  if (leavesBytes(transform)) return source;
  return source === "jpg" || source === "webp" ? source : "png";
}

/** The image's pixels after a transform, encoded; without any camera flag. A transform that changes nothing gives the bytes back. */
export async function render(bytes: Uint8Array, transform: ImageTransform, extension: string): Promise<Uint8Array> {
  if (leavesBytes(transform)) return bytes;
  // The camera's flag is settled in a step of its own: resizing must count upright pixels.
  let image = transform.orientation > 1 ? sharp(await sharp(bytes).rotate().png({ compressionLevel: 0 }).toBuffer()) : sharp(bytes);
  if (transform.resize) image = image.resize(transform.resize.width, transform.resize.height, { fit: "fill", kernel: "lanczos3" });
  if (transform.flipSideways) image = image.flop();
  const kind = renderedExtension(extension, transform);
  if (kind === "jpg") return image.jpeg({ quality: 95, chromaSubsampling: "4:4:4" }).toBuffer();
  if (kind === "webp") return image.webp({ quality: 95 }).toBuffer();
  return image.png().toBuffer();
}
