/** Pictures as files: how they lie, and how large they are. */
import { imagesAsProofs, intoTheBin, plural, type Check } from "../check";
import { median } from "../median";

export const turnedByCamera: Check = {
  code: "exif-rotated",
  severity: "info",
  counts: "images",
  means:
    "Images whose camera noted a rotation: Larder shows and packs them upright; a trainer that reads the original file may not.",
  threshold: null,
  *find({ snapshot, slots }) {
    const turned = slots.filter((slot) => snapshot.turned.at(slot) === 1);
    if (turned.length > 0)
      yield {
        subject: "",
        sentence: `${plural(turned.length, "image was", "images were")} turned by the camera.`,
        ...{ count: turned.length, proofs: imagesAsProofs(turned), where: "turned = yes" },
      };
  },
};

export const sizeUnlikeRest: Check = {
  code: "size-unlike-rest",
  severity: "info",
  counts: "images",
  means:
    "Images with so many times more or fewer pixels than the median image: resizing shows them to the trainer at another scale.",
  threshold: { unit: "times", usual: 6, least: 1.5, most: 1000, step: 0.5 },
  *find({ snapshot, slots }, times) {
    const pixels = (slot: number) => snapshot.width.at(slot) * snapshot.height.at(slot);
    const usual = median(Float64Array.from(slots, pixels));
    const unlike = slots.filter((slot) => pixels(slot) * times < usual || pixels(slot) > times * usual);
    if (unlike.length > 0)
      yield {
        subject: "",
        sentence: `${plural(unlike.length, "image has", "images have")} over ${times} times more or fewer pixels than most.`,
        ...{ count: unlike.length, proofs: imagesAsProofs(unlike), where: null, mends: [intoTheBin] },
      };
  },
};
