import { toneOp } from "./op";

export const solarize = toneOp({
  name: "solarize",
  title: "Solarize",
  against: "flat light",
  help: "Tones from a level on are turned about: 255 − v where v ≥ above.",
  parameters: {
    above: { kind: "number", min: 0, max: 255, unit: "level", default: [128, 255], help: "tones from here on" },
  },
  tone: ({ above }) => ({ kind: "channel", value: (v) => (v >= above ? 255 - v : v) }),
});
