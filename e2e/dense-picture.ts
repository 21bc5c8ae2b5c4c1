/** A picture of nine trays at once, with the outlines of all that lies on them: for looking at a crowded image. */
import { writeArchive } from "@larder/demo/archive";
import { drawScene } from "@larder/demo/render";
import { frame, makeScene } from "@larder/demo/scene";
import { trueBreads } from "@larder/demo/truth";
import sharp from "sharp";

const across = 3;
const tray = { width: 640, height: 480 };
export const densePictureSize = { width: across * tray.width, height: across * tray.height };

/** Writes it as a COCO archive. */
export async function writeDensePicture(archive: string): Promise<void> {
  const scenes = Array.from({ length: across * across }, (_, n) => makeScene(300 + 7 * n));
  const corners = scenes.map((_, n) => [(n % across) * tray.width, Math.floor(n / across) * tray.height] as const);
  const trays = await Promise.all(
    scenes.map(async (scene, n) => ({
      input: await sharp(drawScene(scene), { raw: { ...frame, channels: 3 } })
        .resize(tray.width, tray.height)
        .png()
        .toBuffer(),
      ...{ left: corners[n]?.[0] ?? 0, top: corners[n]?.[1] ?? 0 },
    })),
  );
  const size = densePictureSize;
  const picture = await sharp({ create: { ...size, channels: 3, background: "#000" } })
    .composite(trays)
    .jpeg({ quality: 90 })
    .toBuffer();
  const scale = tray.width / frame.width;
  const breads = scenes.flatMap((scene, n) =>
    trueBreads(scene).map(({ kind, outline }) => ({
      kind,
      outline: outline.map((value, at) => value * scale + (corners[n]?.[at % 2] ?? 0)),
    })),
  );
  const kinds = [...new Set(breads.map(({ kind }) => kind))];
  const coco = {
    images: [{ id: 1, file_name: "nine_trays.jpg", ...size }],
    categories: kinds.map((name, n) => ({ id: n + 1, name })),
    annotations: breads.map(({ kind, outline }, n) => {
      const axis = (from: 0 | 1) => outline.filter((_, at) => at % 2 === from);
      const [x, y] = [Math.min(...axis(0)), Math.min(...axis(1))];
      return {
        ...{ id: n + 1, image_id: 1, category_id: kinds.indexOf(kind) + 1, segmentation: [outline], iscrowd: 0 },
        ...{ bbox: [x, y, Math.max(...axis(0)) - x, Math.max(...axis(1)) - y], area: 1 },
      };
    }),
  };
  await writeArchive(archive, [
    { path: "nine_trays.jpg", bytes: () => Promise.resolve(picture) },
    { path: "annotations.json", bytes: () => Promise.resolve(Buffer.from(JSON.stringify(coco))) },
  ]);
}
