import { centred, scaling } from "../../geometry/transform";
import { geometryOp } from "./op";

export const scale = geometryOp({
  name: "scale",
  title: "Scale",
  against: "near and far",
  help: "Larger or smaller about the centre; the frame stays.",
  parameters: {
    by: { kind: "number", min: 0.1, max: 4, unit: "times", default: [0.8, 1.2], help: "1 is as large as before" },
  },
  place: ({ by }, frame) => ({ matrix: centred(scaling(by, by), frame.width / 2, frame.height / 2), size: frame }),
});
