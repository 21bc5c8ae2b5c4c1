import { affine } from "../../geometry/transform";
import { geometryOp } from "./op";

export const flipOver = geometryOp({
  name: "flip-over",
  title: "Flip over",
  against: "turned camera",
  help: "Top becomes bottom. Left and right keypoints change places.",
  parameters: {},
  place: (_, frame) => ({ matrix: affine(1, 0, 0, -1, 0, frame.height), size: frame }),
});
