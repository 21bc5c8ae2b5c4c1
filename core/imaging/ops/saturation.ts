import { toneOp } from "./op";
import { saturationMatrix } from "../tone/luma";

export const saturation = toneOp({
  name: "saturation",
  title: "Saturation",
  against: "other lamps",
  help: "Colours move away from their grey, or towards it: Y + (1+by)(v − Y).",
  parameters: {
    by: { kind: "number", min: -1, max: 1, unit: "share", default: [-0.3, 0.3], neutral: 0, help: "−100% is grey" },
  },
  tone: ({ by }) => ({ kind: "matrix", of: saturationMatrix(1 + by) }),
});
