import { leavesBytes, type ImageTransform } from "@larder/core/imaging/transform";
import type { Size } from "@larder/core/model/item";
import sharp, { type Sharp } from "sharp";
import { openImage } from "./open";

/** The kind of file a transform's output is: the source's own where it can be written well, else PNG. */
export function renderedExtension(source: string, transform: ImageTransform): string {
  if (leavesBytes(transform)) return source;
  return source === "jpg" || source === "webp" ? source : "png";
}

/** What keeps a picture's numbers: 8 bits, or the colour space of 16 that it has. */
type Depth = "8 bits" | "rgb16" | "grey16";
type Raw = {
  data: Buffer | Uint16Array;
  info: { width: number; height: number; channels: 1 | 2 | 3 | 4 };
  depth: Depth;
};

async function rawOf(image: Sharp, depth: Depth): Promise<Raw> {
  const { data, info } = await deepened(image, depth)
    .raw({ depth: depth === "8 bits" ? "uchar" : "ushort" })
    .toBuffer({ resolveWithObject: true });
  return {
    data: depth === "8 bits" ? data : new Uint16Array(data.buffer, data.byteOffset, data.length / 2),
    info: { width: info.width, height: info.height, channels: info.channels },
    depth,
  };
}

/** The image in the colour space that keeps 16 bits where it has them. */
function deepened(image: Sharp, depth: Depth): Sharp {
  return depth === "8 bits" ? image : image.toColourspace(depth);
}

async function depthAndSize(image: Sharp): Promise<{ depth: Depth; size: Size }> {
  const { depth, channels, width, height } = await image.metadata();
  const deep = channels < 3 ? "grey16" : "rgb16";
  return { depth: depth === "ushort" ? deep : "8 bits", size: { width, height } };
}

/** Pixels repeated around the edge, so that interpolation near it sees no border. */
const apron = 8;

/**
 * Enlarges so that a pixel's area maps onto its share of the new one, edge on edge: the library's own enlarging lands
 * half
 * a pixel to the right and below, which labels would not follow.
 */
async function enlarged({ data, info, depth }: Raw, { width, height }: Size): Promise<Sharp> {
  const scale = { x: width / info.width, y: height / info.height };
  const wide = await rawOf(
    sharp(data, { raw: info }).extend({ top: apron, bottom: apron, left: apron, right: apron, extendWith: "copy" }),
    depth,
  );
  const left = Math.ceil(apron * scale.x);
  const top = Math.ceil(apron * scale.y);
  const shifted = await rawOf(
    sharp(wide.data, { raw: wide.info }).affine(
      [
        [scale.x, 0],
        [0, scale.y],
      ],
      { interpolator: "bicubic", odx: left - 0.5 + scale.x * (0.5 - apron), ody: top - 0.5 + scale.y * (0.5 - apron) },
    ),
    depth,
  );
  return sharp(shifted.data, { raw: shifted.info }).extract({ left, top, width, height });
}

/** Resizes to exactly this size: first what shrinks, then what grows. `from` is the image's own size. */
async function resized(image: Sharp, from: Size, size: Size, depth: Depth): Promise<Sharp> {
  // A picture that only shrinks is decoded no larger than it has to be.
  if (depth === "8 bits" && size.width <= from.width && size.height <= from.height)
    return image.resize(size.width, size.height, { fit: "fill", kernel: "lanczos3" });
  const { data, info } = await rawOf(image, depth);
  const within = { width: Math.min(size.width, info.width), height: Math.min(size.height, info.height) };
  const shrunk = sharp(data, { raw: info }).resize(within.width, within.height, { fit: "fill", kernel: "lanczos3" });
  if (within.width === size.width && within.height === size.height) return shrunk;
  const grown = await rawOf(await enlarged(await rawOf(shrunk, depth), size), depth);
  return sharp(grown.data, { raw: grown.info });
}

/**
 * The image's pixels after a transform, encoded; without any camera flag. A transform that changes nothing gives the
 * bytes back.
 */
export async function render(bytes: Uint8Array, transform: ImageTransform, extension: string): Promise<Uint8Array> {
  if (leavesBytes(transform)) return bytes;
  // The camera's flag is settled in a step of its own: resizing must count upright pixels.
  const opened = await openImage(bytes);
  const { depth, size } = await depthAndSize(opened);
  const turned = transform.orientation > 1;
  let image = turned ? sharp(await deepened(opened.rotate(), depth).png({ compressionLevel: 0 }).toBuffer()) : opened;
  // The camera's flags above 4 swap the sides.
  const from = transform.orientation > 4 ? { width: size.height, height: size.width } : size;
  if (transform.resize) image = await resized(image, from, transform.resize, depth);
  if (transform.flipSideways) image = image.flop();
  const kind = renderedExtension(extension, transform);
  if (kind === "jpg") return image.jpeg({ quality: 95, chromaSubsampling: "4:4:4" }).toBuffer();
  if (kind === "webp") return image.webp({ quality: 95 }).toBuffer();
  return deepened(image, depth).png().toBuffer();
}

/** Kinds of file that every browser shows. */
const shown = new Set(["jpg", "png", "webp", "gif", "avif", "bmp"]);

/**
 * A picture upright, as a browser can show it: its own bytes where they can stay, else rendered. Also says what kind
 * of file that is.
 */
export async function renderForScreen(
  bytes: Uint8Array,
  orientation: number,
  extension: string,
): Promise<{ bytes: Uint8Array; extension: string }> {
  const transform = { orientation, resize: null, flipSideways: false };
  if (!shown.has(extension))
    return { bytes: await (await openImage(bytes)).rotate().toColourspace("srgb").png().toBuffer(), extension: "png" };
  return { bytes: await render(bytes, transform, extension), extension: renderedExtension(extension, transform) };
}
