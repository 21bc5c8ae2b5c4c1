import { toneOp } from "./op";
import { decodeSrgb, encodeSrgb } from "../tone/srgb";

export const exposure = toneOp({
  name: "exposure",
  title: "Exposure",
  against: "dark room",
  help: "Light is doubled with each stop: encode(decode(v)·2^stops), by the sRGB transfer curve (IEC 61966-2-1).",
  parameters: {
    stops: {
      kind: "number",
      min: -2,
      max: 2,
      unit: "stops",
      default: [-0.7, 0.7],
      neutral: 0,
      help: "each doubles the light",
    },
  },
  tone: ({ stops }) => {
    const factor = 2 ** stops;
    return { kind: "channel", value: (v) => 255 * encodeSrgb(decodeSrgb(v / 255) * factor) };
  },
});
