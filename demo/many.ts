/**
 * Any number of pictures for tests and benchmarks: a few trays drawn once, each then shown in ever other light and
 * crop.
 */
import sharp from "sharp";
import { drawScene } from "./render";
import { frame, makeScene } from "./scene";
import type { DemoFile } from "./shifts";
import { trueBreads } from "./truth";

const mostTrays = 12;
const margin = 24;

/** `count` pictures of `width` × `height` with a COCO file of their boxes; the same seed gives the same files. */
export async function manyPictures(
  count: number,
  { width, height, seed = 1 }: { width: number; height: number; seed?: number },
): Promise<DemoFile[]> {
  const scenes = Array.from({ length: Math.min(mostTrays, Math.ceil(count / 10)) }, (_, i) =>
    makeScene(seed * 1000 + i),
  );
  const inner = { width: frame.width - 2 * margin, height: frame.height - 2 * margin };
  const scale = { x: width / inner.width, y: height / inner.height };
  const canvas = { width: Math.ceil(frame.width * scale.x), height: Math.ceil(frame.height * scale.y) };
  const drawn = await Promise.all(
    scenes.map((scene) =>
      sharp(drawScene(scene), { raw: { ...frame, channels: 3 } })
        .resize(canvas.width, canvas.height, { fit: "fill" })
        .raw()
        .toBuffer(),
    ),
  );
  const place = (n: number) => ({
    tray: n % scenes.length,
    left: (n * 7) % (2 * margin),
    top: (n * 11) % (2 * margin),
    brightness: 0.8 + ((n * 0.6180339887) % 1) * 0.4,
  });
  const files = Array.from({ length: count }, (_, n): DemoFile => ({
    path: `images/many_${String(n).padStart(6, "0")}.jpg`,
    bytes: () => {
      const { tray, left, top, brightness } = place(n);
      return sharp(drawn[tray] as Uint8Array, { raw: { ...canvas, channels: 3 } })
        .extract({ left: Math.floor(left * scale.x), top: Math.floor(top * scale.y), width, height })
        .linear(brightness)
        .withExif({ IFD0: { ImageDescription: `Picture ${n} of seed ${seed}` } })
        .jpeg({ quality: 85 })
        .toBuffer();
    },
  }));
  let id = 0;
  const annotations = files.flatMap((_, n) => {
    const { tray, left, top } = place(n);
    return trueBreads(scenes[tray] as (typeof scenes)[number]).flatMap(({ kind, box }) => {
      const x = Math.max(0, box.x - left);
      const y = Math.max(0, box.y - top);
      const w = Math.min(inner.width, box.x + box.width - left) - x;
      const h = Math.min(inner.height, box.y + box.height - top) - y;
      return w > 4 && h > 4
        ? [{ id: ++id, image_id: n, category_id: kind, bbox: [x * scale.x, y * scale.y, w * scale.x, h * scale.y] }]
        : [];
    });
  });
  const kinds = [...new Set(annotations.map((annotation) => annotation.category_id))];
  const json = JSON.stringify({
    images: files.map((file, n) => ({ id: n, width, height, file_name: file.path.slice(7) })),
    annotations,
    categories: kinds.map((name) => ({ id: name, name })),
  });
  return [
    ...files,
    { path: "annotations/instances.json", bytes: () => Promise.resolve(new TextEncoder().encode(json)) },
  ];
}
