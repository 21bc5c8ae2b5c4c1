import { toneOp } from "./op";

export const invertTones = toneOp({
  name: "invert",
  title: "Invert",
  against: "colour that misleads",
  help: "Light becomes dark: 255 − v.",
  parameters: {},
  tone: () => ({ kind: "affine", factor: [-1, -1, -1], offset: 255 }),
});
