import { sourcesOp } from "./op";

export const mosaic = sourcesOp({
  name: "mosaic",
  title: "Mosaic",
  against: "crowded scene",
  help: "Four training images around a drawn centre, each filling its quarter, with the labels of all four.",
  parameters: {
    centre: {
      kind: "number",
      min: 0.1,
      max: 0.9,
      unit: "share",
      default: [0.3, 0.7],
      help: "where they meet, as a share of each side; drawn for both",
    },
  },
});
