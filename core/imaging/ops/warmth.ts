import { toneOp } from "./op";

export const warmth = toneOp({
  name: "warmth",
  title: "Warmth",
  against: "other lamps",
  help: "Red and blue are raised against each other: R·(1+by/4), B·(1−by/4).",
  parameters: {
    by: {
      kind: "number",
      min: -1,
      max: 1,
      unit: "share",
      default: [-0.3, 0.3],
      neutral: 0,
      help: "warmer above 0, colder below",
    },
  },
  tone: ({ by }) => ({ kind: "affine", factor: [1 + by / 4, 1, 1 - by / 4], offset: 0 }),
});
