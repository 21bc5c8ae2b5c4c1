import { compose, scaling, translation } from "../../geometry/transform";
import { geometryOp } from "./op";

export const cropTo = geometryOp({
  name: "crop-to",
  title: "Crop to a part",
  against: "near and far",
  help: "A part is cut out at a drawn place and brought back to the size of the picture.",
  parameters: {
    share: { kind: "number", min: 0.01, max: 1, unit: "share", default: [0.6, 1], help: "of the picture's area" },
    ratio: {
      kind: "number",
      min: 0.1,
      max: 10,
      unit: "",
      default: [0.75, 1.333],
      help: "of the cut's width to its height",
    },
  },
  place: ({ share, ratio }, frame, draws) => {
    const area = share * frame.width * frame.height;
    // A cut as long as that does not fit is as long as the picture, and keeps its ratio.
    const longest = Math.min(Math.sqrt(area * ratio), frame.width, frame.height * ratio);
    const [width, height] = [longest, longest / ratio];
    const left = draws.next() * (frame.width - width);
    const top = draws.next() * (frame.height - height);
    return {
      matrix: compose(translation(-left, -top), scaling(frame.width / width, frame.height / height)),
      size: frame,
    };
  },
});
