/** The pixels that a brush or a rubber goes over, shown while it moves: the very ones that will be painted. */
import { visitStroke } from "@larder/core/editing/mask-canvas";
import type { Size } from "@larder/core/model/item";

/** One canvas is kept from stroke to stroke: to make one of a large picture's size takes longer than a frame. */
let kept: HTMLCanvasElement | null = null;

export class StrokePixels {
  private readonly canvas: HTMLCanvasElement;
  /** How many numbers of the path are painted already. */
  private painted = 0;

  constructor(
    private readonly size: Size,
    private readonly radius: number,
    private readonly colour: string,
  ) {
    kept ??= document.createElement("canvas");
    // Setting a size empties it, also where it is the same.
    kept.width = size.width;
    kept.height = size.height;
    this.canvas = kept;
  }

  /** Goes on along a path that grew at its end. */
  follow(path: readonly number[]): void {
    if (path.length <= this.painted) return;
    const context = this.canvas.getContext("2d");
    if (!context) return;
    context.fillStyle = this.colour;
    visitStroke(path.slice(Math.max(0, this.painted - 2)), this.radius, this.size, (row, from, to) =>
      context.fillRect(from, row, to - from, 1),
    );
    this.painted = path.length;
  }

  /** Draws them onto a canvas in the picture's frame, as squares where they are large enough to be seen. */
  paint(context: CanvasRenderingContext2D, scale: number): void {
    context.imageSmoothingEnabled = scale < 2;
    context.globalAlpha = 0.5;
    context.drawImage(this.canvas, 0, 0);
    context.globalAlpha = 1;
  }
}
