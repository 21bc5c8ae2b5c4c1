/** Cut-outs: a part of a picture with some of what is around it, small enough to stand among hundreds. */
import { clipBox } from "@larder/core/geometry/box";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
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
  const opened = await openImage(bytes, Infinity, { failOn: "none" });
  const { width: across, height: down, orientation = 1 } = await opened.metadata();
  // The last four of the eight orientations lie on their side.
  const upright = orientation < 5 ? { width: across, height: down } : { width: down, height: across };
  const scale = { x: upright.width / size.width, y: upright.height / size.height };
  const left = Math.min(upright.width - 1, Math.max(0, Math.floor(frame.x * scale.x)));
  const top = Math.min(upright.height - 1, Math.max(0, Math.floor(frame.y * scale.y)));
  const width = Math.max(1, Math.min(upright.width - left, Math.ceil(frame.width * scale.x)));
  const height = Math.max(1, Math.min(upright.height - top, Math.ceil(frame.height * scale.y)));
  // Turned first: a part can only be taken from what stands upright. What lies below it is not decoded.
  return opened
    .rotate()
    .extract({ left, top, width, height })
    .resize(cutoutEdge, cutoutEdge, { fit: "inside", withoutEnlargement: true })
    .toColourspace("srgb")
    .webp(webp)
    .toBuffer();
}
