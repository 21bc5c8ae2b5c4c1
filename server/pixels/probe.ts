import { Failure } from "@larder/core/model/failure";
import { kindText, untakenKindOfBytes } from "@larder/core/imaging/untaken-kinds";
import type { ImageFacts } from "@larder/core/formats/settle";
import { JPG } from "image-size/types/jpg";
import sharp from "sharp";
import { noExif, nowhere, readExif, type WhenAndWhere } from "./exif";
import { bitmapSize, isBitmap } from "./open";

const extensions: Record<string, string> = {
  jpeg: "jpg",
  png: "png",
  webp: "webp",
  tiff: "tif",
  gif: "gif",
  heif: "avif",
  bmp: "bmp",
};

/** What a header tells: the size as the pixels lie in the file, the camera's flag, and whether there is EXIF. */
type Header = { format: string; width: number; height: number; orientation: number; taken: WhenAndWhere };

const jpegStart = Buffer.from([0xff, 0xd8, 0xff]);

/** A JPEG's header, read without the image library, which takes many times as long; null where this finds no size. */
async function jpegHeader(bytes: Buffer): Promise<Header | null> {
  if (!bytes.subarray(0, 3).equals(jpegStart)) return null;
  try {
    const { width, height } = JPG.calculate(bytes);
    if (!width || !height) return null;
    const { orientation, ...taken } = bytes.includes("Exif\0\0", 0, "latin1") ? await readExif(bytes) : noExif;
    return { format: "jpeg", width, height, orientation, taken };
  } catch {
    return null;
  }
}

function bitmapHeader(bytes: Buffer): Header | null {
  return isBitmap(bytes) ? { format: "bmp", ...bitmapSize(bytes), orientation: 1, taken: nowhere } : null;
}

async function anyHeader(bytes: Buffer): Promise<Header> {
  try {
    const { format, width, height, orientation, exif } = await sharp(bytes, { limitInputPixels: false }).metadata();
    const { orientation: _, ...taken } = exif ? await readExif(bytes) : noExif;
    return { format, width, height, orientation: orientation ?? 1, taken };
  } catch {
    throw new Failure("image-unreadable", "it is not an image that can be decoded");
  }
}

/**
 * Upright size, camera flag and kind of an image from its header, and when and where it says it was taken. Throws a
 * Failure where it is none or too large.
 */
export async function probe(
  bytes: Uint8Array,
  maxPixels: number,
): Promise<ImageFacts & { extension: string; taken: WhenAndWhere }> {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const untaken = untakenKindOfBytes(buffer);
  if (untaken) throw new Failure("image-unreadable", kindText(untaken));
  const { format, width, height, orientation, taken } =
    (await jpegHeader(buffer)) ?? bitmapHeader(buffer) ?? (await anyHeader(buffer));
  const extension = extensions[format];
  if (!width || !height || !extension)
    throw new Failure("image-unreadable", `it is ${format || "nothing"} that Larder does not take`);
  if (width * height > maxPixels) {
    throw new Failure(
      "image-unreadable",
      `it has ${width.toLocaleString("en-US")} × ${height.toLocaleString("en-US")} pixels, more than the ${Math.round(maxPixels / 1e6)} megapixels allowed`,
    );
  }
  const turned = orientation >= 5;
  return { width: turned ? height : width, height: turned ? width : height, orientation, extension, taken };
}
