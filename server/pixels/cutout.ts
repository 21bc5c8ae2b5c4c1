/** Cut-outs: a part of a picture with some of what is around it, small enough to stand among hundreds. */
import { clipBox } from "@larder/core/geometry/box";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import sharp from "sharp";
import { openImage } from "./open";

/** The longer edge of a cut-out, at most; none is enlarged. */
export const cutoutEdge = 192;
/** So much of its longer edge is shown around what is cut out. */
const margin = 0.15;

const webp = { quality: 80, effort: 0 };

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

/**
 * Cuts a frame, in pixels of the upright picture of `size`, out of a picture or a smaller rendering of it; a WebP. Throws
 * where the pixels cannot be decoded.
 */
export async function cutOut(bytes: Uint8Array, frame: Box, size: Size): Promise<Uint8Array> {
  // Turned first: a part can only be taken from what stands upright.
  const opened = await openImage(bytes, Infinity, { failOn: "none" });
  const { data, info } = await opened.rotate().toColourspace("srgb").raw({ depth: "uchar" }).toBuffer({
    resolveWithObject: true,
  });
  const [across, down] = [info.width / size.width, info.height / size.height];
  const left = Math.min(info.width - 1, Math.max(0, Math.floor(frame.x * across)));
  const top = Math.min(info.height - 1, Math.max(0, Math.floor(frame.y * down)));
  const width = Math.max(1, Math.min(info.width - left, Math.ceil(frame.width * across)));
  const height = Math.max(1, Math.min(info.height - top, Math.ceil(frame.height * down)));
  return sharp(data, { raw: { width: info.width, height: info.height, channels: info.channels } })
    .extract({ left, top, width, height })
    .resize(cutoutEdge, cutoutEdge, { fit: "inside", withoutEnlargement: true })
    .webp(webp)
    .toBuffer();
}
