/** The pixels of the picture on the bench, for what looks at them: values under the pointer, traced edges. */
import { edgeCosts, greyOf, type EdgeCosts } from "@larder/core/editing/edge-trace";

/** The costs of tracing in a piece of the picture; `left` and `top` are where it begins. */
export type EdgePiece = EdgeCosts & { left: number; top: number };

export class PicturePixels {
  private readonly context = new OffscreenCanvas(1, 1).getContext("2d", { willReadFrequently: true });

  /** `bitmap`: the decoded picture, upright. */
  constructor(private readonly bitmap: ImageBitmap) {}

  /** Red, green and blue of the pixel that a place lies in; null outside of the picture. */
  at(x: number, y: number): [number, number, number] | null {
    const { width, height } = this.bitmap;
    if (x < 0 || y < 0 || x >= width || y >= height) return null;
    this.context?.drawImage(this.bitmap, Math.floor(x), Math.floor(y), 1, 1, 0, 0, 1, 1);
    const data = this.context?.getImageData(0, 0, 1, 1).data;
    return data ? [data[0] as number, data[1] as number, data[2] as number] : null;
  }

  /** What a traced line costs in the pixels up to `reach` away from one of the picture. */
  edgesAround(x: number, y: number, reach: number): EdgePiece | null {
    const [left, top] = [Math.max(0, x - reach), Math.max(0, y - reach)];
    const width = Math.min(this.bitmap.width, x + reach + 1) - left;
    const height = Math.min(this.bitmap.height, y + reach + 1) - top;
    const context = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true });
    if (!context) return null;
    context.drawImage(this.bitmap, left, top, width, height, 0, 0, width, height);
    return { ...edgeCosts(greyOf(context.getImageData(0, 0, width, height).data), width, height), left, top };
  }
}
