import { applyTones } from "../tone/apply-tones";
import { patchOp } from "./op";
import { toneOf } from "./tones";

export const toneInBoxes = patchOp({
  name: "tone-in-boxes",
  title: "Tone in boxes",
  against: "colour that misleads",
  help: "Tone ops on the boxes of objects alone.",
  parameters: { ops: { kind: "tones", default: [], help: "tone ops, in this order" } },
  covers: false,
  places: (_, size, boxes) =>
    boxes.flatMap((box) => {
      const [left, top] = [Math.max(0, Math.floor(box.x)), Math.max(0, Math.floor(box.y))];
      const width = Math.min(size.width, Math.ceil(box.x + box.width)) - left;
      const height = Math.min(size.height, Math.ceil(box.y + box.height)) - top;
      return width > 0 && height > 0 ? [{ x: left, y: top, width, height }] : [];
    }),
  change: (raster, { ops }, places) => {
    const tones = ops.map(toneOf);
    for (const box of places) applyTones(raster, tones, box);
  },
});
