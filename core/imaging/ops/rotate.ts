import { affine, centred, compose, translation } from "../../geometry/transform";
import { geometryOp } from "./op";

export const rotate = geometryOp({
  name: "rotate",
  title: "Rotate",
  against: "turned camera",
  help: "Turned about the centre, clockwise as seen.",
  parameters: {
    degrees: { kind: "number", min: -180, max: 180, unit: "degrees", default: [-15, 15], help: "clockwise as seen" },
    frame: {
      kind: "choice",
      options: ["keep", "grow"],
      default: "keep",
      help: "keep cuts the corners off, grow makes room for them",
    },
  },
  place: ({ degrees, frame: mode }, { width, height }) => {
    const angle = (degrees * Math.PI) / 180;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    const matrix = centred(affine(cos, sin, -sin, cos, 0, 0), width / 2, height / 2);
    if (mode === "keep") return { matrix, size: { width, height } };
    // What rounding adds to a side that would be whole is none.
    const side = (value: number) => Math.max(1, Math.ceil(value - 1e-9));
    const grown = {
      width: side(Math.abs(width * cos) + Math.abs(height * sin)),
      height: side(Math.abs(width * sin) + Math.abs(height * cos)),
    };
    const moved = translation((grown.width - width) / 2, (grown.height - height) / 2);
    return { matrix: compose(matrix, moved), size: grown };
  },
});
