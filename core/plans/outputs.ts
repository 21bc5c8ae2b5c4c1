/** What a plan makes of one image: its labels under their new names, and the image itself with its copies. */
import { moveObjects, outputSize, sampleTransform, type ImageTransform } from "../imaging/transform";
import {
  carriesLabels,
  type ClassInfo,
  type Item,
  type LabeledObject,
  type LabelState,
  type Size,
  type Split,
} from "../model/item";
import { renamed } from "../relabel/mapping";
import type { Plan } from "./plan";

/**
 * An image as a plan takes it; `key` is the hash of its bytes, `orientation` the camera's flag (EXIF, 1…8), `size` the
 * upright one.
 */
export type PlannedImage = Pick<Item, "state" | "objects" | "classes" | "captions" | "fields"> & {
  key: string;
  size: Size;
  orientation: number;
};

/** One image that comes out: number `copy` (0 is the image itself) with its labels moved along. */
export type PlannedOutput = {
  copy: number;
  size: Size;
  state: LabelState;
  transform: ImageTransform;
  objects: LabeledObject[];
  classes: string[];
};

/** Objects and image-level classes under their names after the plan's relabeling. */
export function relabeledLabels(
  image: Pick<Item, "objects" | "classes">,
  plan: Plan,
): { objects: LabeledObject[]; classes: string[] } {
  return {
    objects: image.objects.flatMap((object) => {
      const name = renamed(object.class, plan.relabel);
      return name === null ? [] : [{ ...object, class: name }];
    }),
    classes: [
      ...new Set(
        image.classes.map((name) => renamed(name, plan.relabel)).filter((name): name is string => name !== null),
      ),
    ],
  };
}

/** The image and its copies as the plan makes them in this split; training images alone are copied. */
export function* outputsOf(
  image: PlannedImage,
  plan: Plan,
  split: Split,
  classes: readonly ClassInfo[],
): Generator<PlannedOutput> {
  const labels = relabeledLabels(image, plan);
  const copies = split === "train" ? plan.augment.copies : 0;
  for (let copy = 0; copy <= copies; copy++) {
    const transform = sampleTransform(plan, image, split, copy);
    if (copy > 0 && plan.augment.unchanged === "leave-out" && !transform.flipSideways) continue;
    const objects = moveObjects(labels.objects, image.size, transform, classes);
    const labeled = carriesLabels({ objects, classes: labels.classes, captions: image.captions, fields: image.fields });
    const state = labeled ? "labeled" : image.state === "labeled" ? "empty" : image.state;
    yield { copy, size: outputSize(image.size, transform), state, transform, objects, classes: labels.classes };
  }
}
