import type { ColourRaster } from "./op";
import { writeLevels } from "../pixels/gaussian";
import { textureOp } from "./op";

/** The mean of samples along a line through each pixel, a pixel apart at most; beyond the picture lies its edge. */
function streaked({ data, width, height, channels }: ColourRaster, length: number, degrees: number): Float32Array {
  const steps = Math.max(2, Math.ceil(length));
  const angle = (degrees * Math.PI) / 180;
  const offsets = Array.from({ length: steps }, (_, n) => {
    const along = ((n + 0.5) / steps - 0.5) * length;
    return [Math.round(along * Math.cos(angle)), Math.round(along * Math.sin(angle))] as const;
  });
  const sums = new Float32Array(data.length);
  for (const [dx, dy] of offsets)
    for (let y = 0; y < height; y++) {
      const row = Math.min(height - 1, Math.max(0, y + dy)) * width;
      for (let x = 0; x < width; x++) {
        const from = (row + Math.min(width - 1, Math.max(0, x + dx))) * channels;
        const to = (y * width + x) * channels;
        for (let channel = 0; channel < channels; channel++)
          sums[to + channel] = (sums[to + channel] as number) + (data[from + channel] as number) / steps;
      }
    }
  return sums;
}

export const motionBlur = textureOp({
  name: "motion-blur",
  title: "Motion blur",
  against: "moving things",
  help: "Smeared along a line, as by a camera that moves.",
  parameters: {
    length: { kind: "number", min: 2, max: 64, unit: "pixels", default: [3, 9], help: "of the line" },
    degrees: {
      kind: "number",
      min: -180,
      max: 180,
      unit: "degrees",
      default: [-90, 90],
      help: "of the line, clockwise from sideways",
    },
  },
  change: (raster, { length, degrees }) => {
    writeLevels(raster, streaked(raster, length, degrees));
    return raster;
  },
});
