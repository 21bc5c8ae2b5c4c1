import { smoothed, writeLevels } from "../pixels/gaussian";
import { textureOp } from "./op";

/** Deviation of the blur that is taken away, in pixels. */
const radius = 1;

export const sharpen = textureOp({
  name: "sharpen",
  title: "Sharpen",
  against: "cheap lens",
  help: "Unsharp masking: v + amount·(v − blurred v), blurred by one pixel.",
  parameters: {
    amount: { kind: "number", min: 0, max: 3, unit: "times", default: [0.3, 1], neutral: 0, help: "0 changes nothing" },
  },
  change: (raster, { amount }) => {
    const levels = smoothed(raster, radius);
    const { data } = raster;
    for (let at = 0; at < data.length; at++) {
      const value = data[at] as number;
      levels[at] = value + amount * (value - (levels[at] as number));
    }
    writeLevels(raster, levels);
    return raster;
  },
});
