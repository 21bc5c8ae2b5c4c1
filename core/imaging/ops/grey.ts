import { toneOp } from "./op";
import { saturationMatrix } from "../tone/luma";

export const grey = toneOp({
  name: "grey",
  title: "Grey",
  against: "colour that misleads",
  help: "Every pixel becomes its luma, Y.",
  parameters: {},
  tone: () => ({ kind: "matrix", of: saturationMatrix(0) }),
});
