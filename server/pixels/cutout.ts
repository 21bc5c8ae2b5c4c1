/** Cut-outs: a part of a picture with some of what is around it, small enough to stand among hundreds. */
import { clipBox } from "@larder/core/geometry/box";
import type { Pixels } from "@larder/core/learning/features";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import sharp from "sharp";
import { openImage } from "./open";

/** The longer edge of a cut-out, at most; none is enlarged. */
export const cutoutEdge = 192;
/** The longer edge of a small one, which stands in until a whole one is cut. */
export const smallCutoutEdge = 64;
/** So much of its longer edge is shown around what is cut out. */
const margin = 0.15;

const webp = { quality: 80, effort: 0 };
const smallWebp = { quality: 60, effort: 0 };

/** What a cut-out shows of a picture of `size`, in its pixels: the box with its margin, within the picture. */
export function cutoutFrame(box: Box, size: Size): Box {
  const around = Math.max(box.width, box.height, 4) * margin;
  const wide = {
    x: box.x - around,
    y: box.y - around,
    width: box.width + 2 * around,
    height: box.height + 2 * around,
  };
  return clipBox(wide, size.width, size.height);
}

/** Whether a rendering whose longer edge is `edge` shows enough of a frame on a picture of `size`. */
export function isShownBy(frame: Box, size: Size, edge: number): boolean {
  const scale = Math.min(1, edge / Math.max(size.width, size.height));
  return scale === 1 || Math.max(frame.width, frame.height) * scale >= cutoutEdge * 0.75;
}

/** Where a frame on a picture of `size` lies on a rendering of it, in whole pixels of that. */
function placeOn(rendering: Size, frame: Box, size: Size) {
  const scale = { x: rendering.width / size.width, y: rendering.height / size.height };
  const left = Math.min(rendering.width - 1, Math.max(0, Math.floor(frame.x * scale.x)));
  const top = Math.min(rendering.height - 1, Math.max(0, Math.floor(frame.y * scale.y)));
  return {
    left,
    top,
    width: Math.max(1, Math.min(rendering.width - left, Math.ceil(frame.width * scale.x))),
    height: Math.max(1, Math.min(rendering.height - top, Math.ceil(frame.height * scale.y))),
  };
}

/** Cuts a small cut-out of a box on a picture of `size` out of the pixels of its thumbnail; a WebP. */
export async function smallCutout(pixels: Pixels, box: Box, size: Size): Promise<Uint8Array> {
  const { data, width, height, channels } = pixels;
  return sharp(data, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 } })
    .extract(placeOn(pixels, cutoutFrame(box, size), size))
    .resize(smallCutoutEdge, smallCutoutEdge, { fit: "inside", withoutEnlargement: true })
    .webp(smallWebp)
    .toBuffer();
}

/**
 * Cuts a frame, in pixels of the upright picture of `size`, out of a picture or a smaller rendering of it; a WebP. Throws
 * where the pixels cannot be decoded.
 */
export async function cutOut(bytes: Uint8Array, frame: Box, size: Size): Promise<Uint8Array> {
  const opened = await openImage(bytes, Infinity, { failOn: "none" });
  const { width: across, height: down, orientation = 1 } = await opened.metadata();
  // The last four of the eight orientations lie on their side.
  const upright = orientation < 5 ? { width: across, height: down } : { width: down, height: across };
  // Turned first: a part can only be taken from what stands upright. What lies below it is not decoded.
  return opened
    .rotate()
    .extract(placeOn(upright, frame, size))
    .resize(cutoutEdge, cutoutEdge, { fit: "inside", withoutEnlargement: true })
    .toColourspace("srgb")
    .webp(webp)
    .toBuffer();
}
