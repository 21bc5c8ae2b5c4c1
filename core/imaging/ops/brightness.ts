import { toneOp } from "./op";

export const brightness = toneOp({
  name: "brightness",
  title: "Brightness",
  against: "dark room",
  help: "Every channel is raised or lowered by the same amount: v + 255·by.",
  parameters: {
    by: {
      kind: "number",
      min: -1,
      max: 1,
      unit: "share",
      default: [-0.2, 0.2],
      neutral: 0,
      help: "of the whole range",
    },
  },
  tone: ({ by }) => ({ kind: "affine", factor: [1, 1, 1], offset: 255 * by }),
});
