/** Asks the worker for the outline of a thing in a box, and again as places inside and outside are said. */
import { cropAround, outlineOfCrop, toCrop, type Crop } from "@larder/core/editing/proposal";
import type { Size } from "@larder/core/model/item";
import type { Box, Shape } from "@larder/core/model/shape";
import type { ProposeAnswer, ProposeRequest } from "./worker";

export type Proposal = {
  box: Box;
  crop: Crop;
  /** Flat coordinates in the picture. */
  inside: readonly number[];
  outside: readonly number[];
  outline: Extract<Shape, { kind: "polygon" }> | null;
};

const address = "/bench-worker/propose.js";

export class Proposer {
  private worker: Worker | null = null;
  private next = 0;
  private readonly waiting = new Map<number, { done: (pixels: Uint8Array) => void; failed: (error: Error) => void }>();

  private running(): Worker {
    if (this.worker) return this.worker;
    this.worker = new Worker(address);
    this.worker.onmessage = ({ data }: MessageEvent<ProposeAnswer>) => {
      const asked = this.waiting.get(data.id);
      this.waiting.delete(data.id);
      if ("pixels" in data) asked?.done(data.pixels);
      else asked?.failed(new Error(data.trouble));
    };
    this.worker.onerror = () => {
      for (const { failed } of this.waiting.values()) failed(new Error("OpenCV does not start in this browser."));
      this.waiting.clear();
      this.close();
    };
    return this.worker;
  }

  /** The proposal of a box, its outline worked out anew. Null where the box holds nothing of the picture. */
  async propose(
    image: HTMLImageElement,
    size: Size,
    { box, inside, outside }: Pick<Proposal, "box" | "inside" | "outside">,
  ): Promise<Proposal | null> {
    const crop = cropAround(box, size);
    if (!crop) return null;
    const canvas = new OffscreenCanvas(crop.width, crop.height);
    const context = canvas.getContext("2d");
    if (!context) throw new Error("This browser does not draw beside the page.");
    const { frame, width, height } = crop;
    context.imageSmoothingQuality = "high";
    context.drawImage(image, frame.x, frame.y, frame.width, frame.height, 0, 0, width, height);
    const within = (places: readonly number[]) =>
      Array.from({ length: places.length / 2 }, (_, i) =>
        toCrop(crop, places[2 * i] as number, places[2 * i + 1] as number),
      ).flat();
    const pixels = await this.ask({
      pixels: context.getImageData(0, 0, width, height).data,
      ...{ width, height, box: crop.box, inside: within(inside), outside: within(outside) },
    });
    return { box, crop, inside, outside, outline: outlineOfCrop(crop, pixels) };
  }

  private ask(request: Omit<ProposeRequest, "id">): Promise<Uint8Array> {
    const id = this.next++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed });
      this.running().postMessage({ ...request, id } satisfies ProposeRequest);
    });
  }

  close(): void {
    this.worker?.terminate();
    this.worker = null;
  }
}
