import { identity } from "../../geometry/transform";
import { quadrilateralMap, isConvex, type Quadrilateral } from "../../geometry/quadrilateral-map";
import { geometryOp } from "./op";

export const perspective = geometryOp({
  name: "perspective",
  title: "Perspective",
  against: "slanted view",
  help: "Each corner moves by up to this share of the size, each another way.",
  parameters: {
    by: { kind: "number", min: 0, max: 0.3, unit: "share", default: 0.1, help: "how far a corner moves at most" },
  },
  place: ({ by }, frame, draws) => {
    if (by === 0) return { matrix: identity, size: frame };
    const { width, height } = frame;
    const corners: Quadrilateral = [0, 0, width, 0, width, height, 0, height];
    const moves = corners.map((_, at) => draws.between(-by, by) * (at % 2 === 0 ? width : height));
    // Corners that move far towards each other fold the picture over: they are held back until it is flat again.
    let reach = 1;
    const moved = () => corners.map((value, at) => value + reach * (moves[at] as number)) as unknown as Quadrilateral;
    while (!isConvex(moved())) reach *= 0.8;
    return { matrix: quadrilateralMap(corners, moved()), size: frame };
  },
});
