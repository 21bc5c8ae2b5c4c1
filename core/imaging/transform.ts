/** What happens to one image on its way into a version, as data: sampled parameters, one matrix, moved labels. */
import { clipShape } from "../geometry/shape";
import { compose, identity, mapShape, mirroring, scaling, type Matrix } from "../geometry/transform";
import type { ClassInfo, LabeledObject, Size, Split } from "../model/item";
import { mirrorOrder } from "../model/keypoint-pairs";
import type { Plan, Resize } from "../plans/plan";
import { uniform } from "../splitting/seeded";

/** `orientation` is the camera's flag that is settled first (EXIF, 1…8); then the resize, then the flip. */
export type ImageTransform = { orientation: number; resize: Size | null; flipSideways: boolean };

/** The size after a resize: `fit` keeps the shape inside the frame, `stretch` fills it. */
export function resizedSize(size: Size, resize: Resize): Size {
  if (resize.mode === "stretch") return { width: resize.width, height: resize.height };
  const factor = Math.min(resize.width / size.width, resize.height / size.height);
  return { width: Math.max(1, Math.round(size.width * factor)), height: Math.max(1, Math.round(size.height * factor)) };
}

/**
 * Draws the transform of copy number `copy` of an image (0 is the image itself, which is never augmented). `size` is
 * the upright one. The draw depends on the plan's seed, the image's hash and the copy's number.
 */
export function sampleTransform(
  plan: Plan,
  image: { key: string; size: Size; orientation: number },
  split: Split,
  copy: number,
): ImageTransform {
  const target = plan.prepare.resize ? resizedSize(image.size, plan.prepare.resize) : null;
  const changes = target !== null && (target.width !== image.size.width || target.height !== image.size.height);
  return {
    orientation: image.orientation,
    resize: changes ? target : null,
    flipSideways: split === "train" && copy > 0 && isFlipped(plan, image.key, copy),
  };
}

function isFlipped(plan: Plan, key: string, copy: number): boolean {
  const { flipSideways } = plan.augment;
  return flipSideways === 1 || (flipSideways > 0 && uniform("flip", plan.split.seed, key, copy) < flipSideways);
}

/** Of a training image's copies, how many no op changes: they are drawn beforehand and can be counted. */
export function unchangedCopies(plan: Plan, key: string): number {
  let count = 0;
  for (let copy = 1; copy <= plan.augment.copies; copy++) if (!isFlipped(plan, key, copy)) count++;
  return count;
}

export function outputSize(size: Size, transform: ImageTransform): Size {
  return transform.resize ?? size;
}

/** True where the original bytes can go out as they are. */
export function leavesBytes(transform: ImageTransform): boolean {
  return transform.orientation === 1 && transform.resize === null && !transform.flipSideways;
}

/** The map from the upright image's pixels to the output's. */
export function matrixOf(size: Size, transform: ImageTransform): Matrix {
  const out = outputSize(size, transform);
  const scaled = transform.resize ? scaling(out.width / size.width, out.height / size.height) : identity;
  return transform.flipSideways ? compose(scaled, mirroring(out.width)) : scaled;
}

/** The objects after the transform, in pixels of the output; what falls outside is cut away. */
export function moveObjects(
  objects: readonly LabeledObject[],
  size: Size,
  transform: ImageTransform,
  classes: readonly ClassInfo[],
): LabeledObject[] {
  if (transform.resize === null && !transform.flipSideways) return [...objects];
  const matrix = matrixOf(size, transform);
  const out = outputSize(size, transform);
  return objects.flatMap((object) => {
    const moved = clipShape(mapShape(object.shape, matrix, out), out.width, out.height);
    if (!moved) return [];
    if (moved.kind === "keypoints" && transform.flipSideways) {
      const order = mirrorOrder(classes.find((info) => info.name === object.class) ?? {});
      if (order.length === moved.points.length) {
        const { points } = moved;
        moved.points = order.map((from) => points[from] as (typeof points)[number]);
      }
    }
    // An area that came with the object was that of the picture before.
    const { givenArea: _, ...rest } = object;
    return [{ ...rest, shape: moved }];
  });
}
