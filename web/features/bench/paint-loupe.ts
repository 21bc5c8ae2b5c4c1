/** A piece of the picture under the pointer, enlarged, while a corner is placed. */
import { toImage, type Point, type View } from "@larder/core/editing/view";
import type { Size } from "@larder/core/model/item";

const loupeSize = 132;
const loupeZoom = 6;
/** From here on the picture itself is large enough. */
const largestScale = 3;

/** `pointer` and `room` are the screen's pixels. */
export function paintLoupe(
  context: CanvasRenderingContext2D,
  picture: HTMLImageElement,
  pointer: Point,
  at: View,
  room: Size,
  ratio: number,
): void {
  if (at.scale > largestScale) return;
  const [x, y] = toImage(at, pointer);
  const side = loupeSize / loupeZoom;
  const left = pointer[0] < loupeSize + 40 && pointer[1] < loupeSize + 40 ? room.width - loupeSize - 10 : 10;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.save();
  context.beginPath();
  context.rect(left, 10, loupeSize, loupeSize);
  context.fillStyle = "#1d201e";
  context.fill();
  context.clip();
  context.imageSmoothingEnabled = false;
  context.drawImage(picture, x - side / 2, y - side / 2, side, side, left, 10, loupeSize, loupeSize);
  context.restore();
  context.strokeStyle = "#fff";
  context.lineWidth = 1;
  context.strokeRect(left, 10, loupeSize, loupeSize);
  context.beginPath();
  context.moveTo(left + loupeSize / 2, 10);
  context.lineTo(left + loupeSize / 2, 10 + loupeSize);
  context.moveTo(left, 10 + loupeSize / 2);
  context.lineTo(left + loupeSize, 10 + loupeSize / 2);
  context.globalAlpha = 0.6;
  context.stroke();
  context.globalAlpha = 1;
}
