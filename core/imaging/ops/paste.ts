import { sourcesOp } from "./op";

export const paste = sourcesOp({
  name: "paste",
  title: "Paste",
  against: "crowded scene",
  help: "Objects with outlines from other training images, at places where they cover no more than 30% of another object.",
  parameters: {
    count: { kind: "number", min: 1, max: 5, unit: "", whole: true, default: [1, 3], help: "of objects" },
    classes: { kind: "classes", default: [], help: "only objects of these classes; none named means all" },
  },
});
