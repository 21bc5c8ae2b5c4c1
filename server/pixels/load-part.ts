/** Decodes the part of a picture that an output shows, brought near its final size without aliasing. */
import type { Raster } from "@larder/core/imaging/raster";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import type { Sharp } from "sharp";
import { openImage } from "./open";

/** What keeps a picture's numbers: 8 bits, or the colour space of 16 that it has. */
export type Depth = "8 bits" | "rgb16" | "grey16";

/** The image in the colour space that keeps 16 bits where it has them. */
export function deepened(image: Sharp, depth: Depth): Sharp {
  return depth === "8 bits" ? image.toColourspace("srgb") : image.toColourspace(depth);
}

export async function depthOf(image: Sharp): Promise<Depth> {
  const { depth, channels } = await image.metadata();
  return depth === "ushort" ? (channels < 3 ? "grey16" : "rgb16") : "8 bits";
}

/** The pixels of a picture in memory. */
export async function rasterOf(image: Sharp, depth: Depth): Promise<Raster> {
  const { data, info } = await deepened(image, depth)
    .raw({ depth: depth === "8 bits" ? "uchar" : "ushort" })
    .toBuffer({ resolveWithObject: true });
  return {
    data: depth === "8 bits" ? data : new Uint16Array(data.buffer, data.byteOffset, data.length / 2),
    width: info.width,
    height: info.height,
    channels: info.channels,
  };
}

const isAll = (region: Box, size: Size) =>
  region.x === 0 && region.y === 0 && region.width === size.width && region.height === size.height;

/**
 * A picture upright, cut to `region` (whole pixels of the upright picture of `size`) and shrunk to `target`, as a step of
 * the image library: pictures that shrink are decoded no larger than they have to be.
 */
export async function openPart(
  bytes: Uint8Array,
  { orientation, size, region }: { orientation: number; size: Size; region: Box },
  target: Size,
): Promise<Sharp> {
  let image = await openImage(bytes);
  if (orientation > 1) image = image.autoOrient();
  if (!isAll(region, size))
    image = image.extract({ left: region.x, top: region.y, width: region.width, height: region.height });
  if (target.width === region.width && target.height === region.height) return image;
  return image.resize(target.width, target.height, { fit: "fill", kernel: "lanczos3" });
}
