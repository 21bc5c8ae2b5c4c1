import { affine, centred, compose } from "../../geometry/transform";
import { geometryOp } from "./op";

const angle = { kind: "number", min: -45, max: 45, unit: "degrees", default: [-8, 8] } as const;

export const shear = geometryOp({
  name: "shear",
  title: "Shear",
  against: "slanted view",
  help: "Slanted about the centre: x + tan(x)·(y − cy), then y + tan(y)·(x − cx) of that.",
  parameters: {
    x: { ...angle, help: "sideways" },
    y: { ...angle, default: 0, help: "up and down" },
  },
  place: ({ x, y }, frame) => {
    const slope = (degrees: number) => Math.tan((degrees * Math.PI) / 180);
    const map = compose(affine(1, 0, slope(x), 1, 0, 0), affine(1, slope(y), 0, 1, 0, 0));
    return { matrix: centred(map, frame.width / 2, frame.height / 2), size: frame };
  },
});
