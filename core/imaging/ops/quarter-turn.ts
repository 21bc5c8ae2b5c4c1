import { affine, type Matrix } from "../../geometry/transform";
import { geometryOp } from "./op";

export const quarterTurn = geometryOp({
  name: "quarter-turn",
  title: "Quarter turn",
  against: "turned camera",
  help: "Turned by right angles, clockwise; one of the numbers is drawn. The sides swap at one and three.",
  parameters: {
    turns: { kind: "one-of", options: [1, 2, 3], default: [1, 2, 3], help: "right angles, clockwise" },
  },
  place: ({ turns }, { width, height }) => {
    const matrices: Record<number, Matrix> = {
      1: affine(0, 1, -1, 0, height, 0),
      2: affine(-1, 0, 0, -1, width, height),
      3: affine(0, -1, 1, 0, 0, width),
    };
    const matrix = matrices[turns];
    if (!matrix) throw new RangeError(`a quarter turn by ${turns}`);
    return { matrix, size: turns === 2 ? { width, height } : { width: height, height: width } };
  },
});
