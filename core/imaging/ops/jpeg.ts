import { textureOp } from "./op";

export const jpeg = textureOp({
  name: "jpeg",
  title: "JPEG",
  against: "small files",
  help: "Compressed and opened again, with the blocks and rings of that.",
  parameters: {
    quality: {
      kind: "number",
      min: 5,
      max: 100,
      unit: "",
      whole: true,
      default: [30, 80],
      help: "as encoders count it; low is coarse",
    },
  },
  change: (raster, { quality }, _, tools) => tools.compressed(raster, quality),
});
