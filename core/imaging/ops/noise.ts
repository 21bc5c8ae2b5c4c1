import { normalStreamOf } from "../../model/seeded";
import { textureOp } from "./op";

export const noise = textureOp({
  name: "noise",
  title: "Noise",
  against: "dark room",
  help: "Normal noise on every pixel, of this deviation in levels.",
  parameters: {
    sigma: {
      kind: "number",
      min: 0,
      max: 80,
      unit: "level",
      default: [2, 8],
      neutral: 0,
      help: "deviation, in levels",
    },
    grain: {
      kind: "choice",
      options: ["colour", "grey"],
      default: "colour",
      help: "each channel on its own, or all three alike",
    },
  },
  change: (raster, { sigma, grain }, seed) => {
    const next = normalStreamOf(seed);
    const { data, channels } = raster;
    for (let at = 0; at < data.length; at += channels) {
      let amount = sigma * next();
      for (let channel = 0; channel < 3; channel++) {
        if (channel > 0 && grain === "colour") amount = sigma * next();
        const value = (data[at + channel] as number) + amount;
        data[at + channel] = value <= 0 ? 0 : value >= 255 ? 255 : value + 0.5;
      }
    }
    return raster;
  },
});
