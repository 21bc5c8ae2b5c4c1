/**
 * Outlines that are proposed for boxes of the demo, whose true outlines are known, and how long a proposal takes; by the
 * same code as the bench's worker, with the same OpenCV.
 */
import { cutThing, startedOpenCv } from "@larder/core/editing/grab-cut";
import { cropAround, outlineOfCrop } from "@larder/core/editing/proposal";
import { edgeCosts, TraceField } from "@larder/core/editing/edge-trace";
import { intersectionOverUnion } from "@larder/core/geometry/overlap";
import type { Box, Shape } from "@larder/core/model/shape";
import { drawScene } from "@larder/demo/render";
import { frame, makeScene } from "@larder/demo/scene";
import { trueBreads } from "@larder/demo/truth";
import openCv from "@techstark/opencv-js";
import sharp from "sharp";

const boxes = 60;

/** Pixels of a crop as the page's canvas gives them: red, green, blue, alpha. */
const pixelsOf = async (picture: Buffer, piece: Box, width: number, height: number): Promise<Uint8Array> =>
  sharp(picture)
    .extract({ left: piece.x, top: piece.y, width: piece.width, height: piece.height })
    .resize(width, height, { fit: "fill" })
    .ensureAlpha()
    .raw()
    .toBuffer();

/** Prints the mean overlap of proposed outlines with the true ones (aim 0.90), and the time of one (aim 700 ms). */
export async function benchPropose(): Promise<void> {
  const { cv } = await startedOpenCv(openCv);
  const overlaps: number[] = [];
  const times: number[] = [];
  for (let seed = 1; overlaps.length < boxes; seed++) {
    const scene = makeScene(seed);
    const picture = await sharp(drawScene(scene), { raw: { ...frame, channels: 3 } })
      .png()
      .toBuffer();
    for (const { box, outline } of trueBreads(scene)) {
      if (overlaps.length >= boxes) break;
      // One that lies wholly under others has no outline.
      if (outline.length < 6) continue;
      // One that the picture's border cuts is no thing in a box.
      if (box.x < 2 || box.y < 2 || box.x + box.width > frame.width - 2 || box.y + box.height > frame.height - 2)
        continue;
      const crop = cropAround(box, frame);
      if (!crop) continue;
      const pixels = await pixelsOf(picture, crop.frame, crop.width, crop.height);
      const began = performance.now();
      const proposed = outlineOfCrop(
        crop,
        cutThing(cv, { pixels, width: crop.width, height: crop.height, box: crop.box, inside: [], outside: [] }),
      );
      times.push(performance.now() - began);
      const truth: Shape = { kind: "polygon", parts: [[outline]] };
      overlaps.push(proposed ? intersectionOverUnion(proposed, truth) : 0);
    }
  }
  const mean = overlaps.reduce((sum, overlap) => sum + overlap, 0) / overlaps.length;
  const sorted = [...overlaps].sort((a, b) => a - b);
  const time = times.reduce((a, b) => a + b, 0) / times.length;
  const poor = overlaps.filter((overlap) => overlap < 0.8).length;
  console.log(
    `proposals: mean overlap of ${overlaps.length} boxes ${mean.toFixed(3)} (aim 0.90), worst ${sorted[0]?.toFixed(2)}, ` +
      `under 0.8: ${poor}; ${Math.round(time)} ms each`,
  );
  const large = await sharp(drawScene(makeScene(3)), { raw: { ...frame, channels: 3 } })
    .resize(2880, 2160)
    .png()
    .toBuffer();
  const crop = cropAround({ x: 800, y: 700, width: 400, height: 400 }, { width: 2880, height: 2160 });
  if (!crop) return;
  const pixels = await pixelsOf(large, crop.frame, crop.width, crop.height);
  const began = performance.now();
  outlineOfCrop(
    crop,
    cutThing(cv, { pixels, width: crop.width, height: crop.height, box: crop.box, inside: [], outside: [] }),
  );
  console.log(`a proposal for a box of 400 × 400: ${Math.round(performance.now() - began)} ms (aim 700)`);
  const grey = await sharp(large).greyscale().raw().toBuffer();
  const costs = edgeCosts(grey, 2880, 2160);
  // The pointer runs a circle of 60 pixels about the last corner, as one does along a thing.
  const field = new TraceField(costs, [1000, 900], 260);
  const steps = Array.from({ length: 40 }, (_, n) => {
    const tracing = performance.now();
    field.pathTo(1000 + 1.5 * n, 900 + 60 * Math.sin(n / 10));
    return performance.now() - tracing;
  });
  console.log(`a traced line under the pointer: ${Math.max(...steps).toFixed(1)} ms at most (aim 30)`);
}
