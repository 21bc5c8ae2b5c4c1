/** Paints the shapes of an image beside the page: however many they are, the page goes on following the pointer. */
import { shapeBounds } from "@larder/core/geometry/shape";
import { toImage } from "@larder/core/editing/view";
import { paintObject, toPictureFrame } from "../paint";
import type { Painting, Placing, SceneChange, SceneObject } from "./scene";

const objects = new Map<string, SceneObject>();
let order: readonly string[] = [];
let scene = 0;
let placing: Placing | null = null;
let canvas: OffscreenCanvas | null = null;
let isWaiting = false;

function paint({ view, width, height, margin, ratio, filled }: Placing): ImageBitmap | null {
  const [columns, rows] = [
    Math.max(1, Math.round((width + 2 * margin) * ratio)),
    Math.max(1, Math.round((height + 2 * margin) * ratio)),
  ];
  if (canvas?.width !== columns || canvas.height !== rows) canvas = new OffscreenCanvas(columns, rows);
  const context = canvas.getContext("2d");
  if (!context) return null;
  const [left, top] = toImage(view, [-margin, -margin]);
  const [right, bottom] = toImage(view, [width + margin, height + margin]);
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, columns, rows);
  toPictureFrame(context, { ...view, x: view.x + margin, y: view.y + margin }, ratio);
  for (const uid of order) {
    const object = objects.get(uid);
    const box = object && shapeBounds(object.shape);
    if (!object || (box && (box.x > right || box.y > bottom || box.x + box.width < left || box.y + box.height < top)))
      continue;
    paintObject(context, { ...object, strong: false, dashed: false }, { opacity: 1, filled }, view);
  }
  return canvas.transferToImageBitmap();
}

function answer(): void {
  isWaiting = false;
  const bitmap = placing && paint(placing);
  if (!bitmap || !placing) return;
  const painting: Painting = { bitmap, view: placing.view, margin: placing.margin, scene };
  self.postMessage(painting, { transfer: [bitmap] });
}

self.onmessage = ({ data }: MessageEvent<SceneChange | Placing>) => {
  if (data.of === "placing") placing = data;
  else {
    scene = data.scene;
    order = data.order;
    for (const object of data.changed) objects.set(object.uid, object);
    const standing = new Set(order);
    for (const uid of objects.keys()) if (!standing.has(uid)) objects.delete(uid);
  }
  // What else has come meanwhile is painted with it.
  if (!isWaiting) setTimeout(answer, 0);
  isWaiting = true;
};
