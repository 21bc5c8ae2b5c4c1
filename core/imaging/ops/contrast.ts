import { toneOp } from "./op";

export const contrast = toneOp({
  name: "contrast",
  title: "Contrast",
  against: "flat light",
  help: "Tones move away from the middle, or towards it: 127.5 + (1+by)(v − 127.5).",
  parameters: {
    by: {
      kind: "number",
      min: -1,
      max: 1,
      unit: "share",
      default: [-0.25, 0.25],
      neutral: 0,
      help: "−100% is all grey",
    },
  },
  tone: ({ by }) => ({ kind: "affine", factor: [1 + by, 1 + by, 1 + by], offset: -127.5 * by }),
});
