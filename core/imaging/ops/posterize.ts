import { toneOp } from "./op";

export const posterize = toneOp({
  name: "posterize",
  title: "Posterize",
  against: "cheap lens",
  help: "Only the upper bits of each channel stay; the lower ones are cleared.",
  parameters: {
    bits: { kind: "number", min: 1, max: 8, unit: "bits", default: [4, 7], whole: true, neutral: 8, help: "that stay" },
  },
  tone: ({ bits }) => {
    const step = 2 ** (8 - bits);
    return { kind: "channel", value: (v) => Math.floor(v / step) * step };
  },
});
