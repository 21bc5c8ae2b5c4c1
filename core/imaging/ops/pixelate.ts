import { textureOp } from "./op";

export const pixelate = textureOp({
  name: "pixelate",
  title: "Pixelate",
  against: "small files",
  help: "Blocks of this side become their mean.",
  parameters: {
    size: { kind: "number", min: 2, max: 64, unit: "pixels", whole: true, default: [2, 6], help: "side of a block" },
  },
  change: (raster, { size }) => {
    const { data, width, height, channels } = raster;
    for (let top = 0; top < height; top += size)
      for (let left = 0; left < width; left += size) {
        const [right, bottom] = [Math.min(width, left + size), Math.min(height, top + size)];
        for (let channel = 0; channel < 3; channel++) {
          let sum = 0;
          for (let y = top; y < bottom; y++)
            for (let x = left; x < right; x++) sum += data[(y * width + x) * channels + channel] as number;
          const mean = Math.round(sum / ((right - left) * (bottom - top)));
          for (let y = top; y < bottom; y++)
            for (let x = left; x < right; x++) data[(y * width + x) * channels + channel] = mean;
        }
      }
    return raster;
  },
});
