import { toneOp } from "./op";

export const gamma = toneOp({
  name: "gamma",
  title: "Gamma",
  against: "dark room",
  help: "Middle tones are raised above 1 and lowered below: 255·(v/255)^(1/by).",
  parameters: {
    by: {
      kind: "number",
      min: 0.2,
      max: 5,
      unit: "times",
      default: [0.7, 1.4],
      neutral: 1,
      help: "above 1 is lighter",
    },
  },
  tone: ({ by }) => ({ kind: "channel", value: (v) => 255 * (v / 255) ** (1 / by) }),
});
