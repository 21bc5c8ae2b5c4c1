import { smoothed, writeLevels } from "../pixels/gaussian";
import { textureOp } from "./op";

export const blur = textureOp({
  name: "blur",
  title: "Blur",
  against: "cheap lens",
  help: "Out of focus: a Gaussian of this deviation.",
  parameters: {
    sigma: { kind: "number", min: 0.3, max: 20, unit: "pixels", default: [0.5, 1.5], help: "deviation, in pixels" },
  },
  change: (raster, { sigma }) => {
    writeLevels(raster, smoothed(raster, sigma));
    return raster;
  },
});
