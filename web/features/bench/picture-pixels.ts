/** The pixels of the picture on the bench, for what looks at them: values under the pointer, traced edges, the loupe. */
import { edgeCosts, greyOf, type EdgeCosts } from "@larder/core/editing/edge-trace";

export class PicturePixels {
  private context: CanvasRenderingContext2D | null = null;
  private costs: EdgeCosts | null = null;

  constructor(readonly image: HTMLImageElement) {}

  private pixels(): CanvasRenderingContext2D | null {
    if (this.context) return this.context;
    const canvas = document.createElement("canvas");
    canvas.width = this.image.naturalWidth;
    canvas.height = this.image.naturalHeight;
    this.context = canvas.getContext("2d", { willReadFrequently: true });
    this.context?.drawImage(this.image, 0, 0);
    return this.context;
  }

  /** Red, green and blue of the pixel that a place lies in; null outside of the picture. */
  at(x: number, y: number): [number, number, number] | null {
    const { naturalWidth, naturalHeight } = this.image;
    if (x < 0 || y < 0 || x >= naturalWidth || y >= naturalHeight) return null;
    const data = this.pixels()?.getImageData(Math.floor(x), Math.floor(y), 1, 1).data;
    return data ? [data[0] as number, data[1] as number, data[2] as number] : null;
  }

  /** What a traced line costs in each pixel; worked out when it is first asked for. */
  edges(): EdgeCosts | null {
    if (this.costs) return this.costs;
    const { naturalWidth, naturalHeight } = this.image;
    const data = this.pixels()?.getImageData(0, 0, naturalWidth, naturalHeight).data;
    if (data) this.costs = edgeCosts(greyOf(data), naturalWidth, naturalHeight);
    return this.costs;
  }
}
