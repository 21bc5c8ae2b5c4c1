import { mirroring } from "../../geometry/transform";
import { geometryOp } from "./op";

export const flipSideways = geometryOp({
  name: "flip-sideways",
  title: "Flip sideways",
  against: "one side only",
  help: "Left becomes right. Left and right keypoints change places.",
  parameters: {},
  place: (_, frame) => ({ matrix: mirroring(frame.width), size: frame }),
});
