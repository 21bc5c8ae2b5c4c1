/** Draws shapes onto a canvas; what is drawn for every frame is worked out once a shape. */
import { outlinesOf } from "@larder/core/editing/outlines";
import type { View } from "@larder/core/editing/view";
import type { Shape } from "@larder/core/model/shape";

const paths = new WeakMap<Shape, Path2D>();

/** What is drawn onto: in a worker there is no page. */
type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

export function addOutline(path: Path2D | Context, points: readonly number[], closed: boolean): void {
  for (let i = 0; i + 1 < points.length; i += 2) {
    const [x, y] = [points[i] as number, points[i + 1] as number];
    if (i === 0) path.moveTo(x, y);
    else path.lineTo(x, y);
  }
  if (closed) path.closePath();
}

/** The lines of a shape in the picture's pixels. */
function pathOf(shape: Shape): Path2D {
  const known = paths.get(shape);
  if (known) return known;
  const path = new Path2D();
  for (const { points, closed } of outlinesOf(shape)) addOutline(path, points, closed);
  paths.set(shape, path);
  return path;
}

export type PaintedObject = {
  shape: Shape;
  colour: string;
  strong: boolean;
  dashed: boolean;
  /** Which keypoints are joined by a line, by their numbers from 0. */
  skeleton?: readonly (readonly [number, number])[] | null | undefined;
};
export type Painting = { opacity: number; filled: boolean };

/** From here on the canvas is drawn on in the picture's pixels; `ratio` is the device's pixels to one of CSS. */
export function toPictureFrame(context: Context, { scale, x, y }: View, ratio: number): void {
  context.setTransform(scale * ratio, 0, 0, scale * ratio, x * ratio, y * ratio);
}

export function paintObject(
  context: Context,
  { shape, colour, strong, dashed, skeleton }: PaintedObject,
  { opacity, filled }: Painting,
  view: View,
): void {
  context.strokeStyle = colour;
  context.fillStyle = colour;
  context.lineWidth = (strong ? 2.6 : 1.6) / view.scale;
  context.setLineDash(dashed ? [5 / view.scale, 4 / view.scale] : []);
  if (shape.kind === "keypoints") {
    context.beginPath();
    for (const [from, to] of skeleton ?? []) {
      const [a, b] = [shape.points[from], shape.points[to]];
      if (!a || !b || a.v === 0 || b.v === 0) continue;
      context.moveTo(a.x, a.y);
      context.lineTo(b.x, b.y);
    }
    context.stroke();
    for (const { x, y, v } of shape.points) {
      if (v === 0) continue;
      context.beginPath();
      context.arc(x, y, (strong ? 5 : 3.5) / view.scale, 0, 2 * Math.PI);
      if (v === 2) context.fill();
      context.stroke();
    }
  }
  const path = pathOf(shape);
  if (shape.kind !== "line") {
    context.globalAlpha = opacity * (filled ? 0.5 : shape.kind === "mask" ? 0.3 : strong ? 0.16 : 0.05);
    context.fill(path, "evenodd");
  }
  context.globalAlpha = opacity;
  context.stroke(path);
  context.globalAlpha = 1;
}
