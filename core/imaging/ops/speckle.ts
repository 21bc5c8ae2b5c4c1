import { streamOf } from "../../model/seeded";
import { textureOp } from "./op";

export const speckle = textureOp({
  name: "speckle",
  title: "Speckle",
  against: "cheap lens",
  help: "Single pixels turn black or white.",
  parameters: {
    share: {
      kind: "number",
      min: 0,
      max: 0.2,
      unit: "share",
      default: [0.002, 0.02],
      neutral: 0,
      help: "of the pixels",
    },
  },
  change: (raster, { share }, seed) => {
    const next = streamOf(seed);
    const { data, channels } = raster;
    for (let at = 0; at < data.length; at += channels) {
      const draw = next();
      if (draw < share) data.fill(draw < share / 2 ? 0 : 255, at, at + 3);
    }
    return raster;
  },
});
