import { toneOp } from "./op";

export const hue = toneOp({
  name: "hue",
  title: "Hue",
  against: "other lamps",
  help: "The hue of HSV is turned around the colour circle.",
  parameters: {
    degrees: {
      kind: "number",
      min: -180,
      max: 180,
      unit: "degrees",
      default: [-8, 8],
      neutral: 0,
      help: "around the colour circle; 120 makes red green",
    },
  },
  tone: ({ degrees }) => ({ kind: "hue", degrees }),
});
