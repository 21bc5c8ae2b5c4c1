import { translation } from "../../geometry/transform";
import { geometryOp } from "./op";

const share = { kind: "number", min: -1, max: 1, unit: "share", default: [-0.1, 0.1] } as const;

export const shift = geometryOp({
  name: "shift",
  title: "Shift",
  against: "always in the middle",
  help: "Moved by shares of the picture's size.",
  parameters: {
    x: { ...share, help: "of the width; right is positive" },
    y: { ...share, help: "of the height; down is positive" },
  },
  place: ({ x, y }, frame) => ({ matrix: translation(x * frame.width, y * frame.height), size: frame }),
});
