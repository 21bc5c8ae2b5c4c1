/** Labels that follow their pixels: moved by a map, cut to a frame, dropped where too little of them is left. */
import { clipShape, isDegenerate } from "../geometry/shape";
import { isMirroring, mapShape, translation, type Matrix } from "../geometry/transform";
import { visibleShare } from "../geometry/visible-share";
import type { ClassInfo, LabeledObject, Size } from "../model/item";
import { mirrorOrder } from "../model/keypoint-pairs";
import type { Box, Shape } from "../model/shape";

export type DropReason = "cut" | "moved" | "covered";
/**
 * An object that is gone, as it lay before, with why: so much of it is left where so much has to be. `matrix` goes from the
 * pixels its shape is in to those it was dropped from: there lies what would have been seen of it.
 */
export type Dropped = { object: LabeledObject; reason: DropReason; left: number; matrix: Matrix };
export type Moved = { objects: LabeledObject[]; dropped: Dropped[] };

/** What of a share is nothing, by rounding. */
const nothing = 1e-9;

function swapped(shape: Shape, info: ClassInfo | undefined): Shape {
  if (shape.kind !== "keypoints") return shape;
  const order = mirrorOrder(info ?? {});
  if (order.length !== shape.points.length) return shape;
  return { ...shape, points: order.map((from) => shape.points[from] as (typeof shape.points)[number]) };
}

/**
 * Objects after a map, in pixels of a frame of size `frame`. What reaches outside is cut; where `visible` is given (0 … 1),
 * an object of which less than that share is inside goes, and one of which nothing is always does.
 */
export function moveObjects(
  objects: readonly LabeledObject[],
  matrix: Matrix,
  frame: Size,
  {
    visible,
    classes,
    reason = "moved",
  }: { visible: number | null; classes: ReadonlyMap<string, ClassInfo>; reason?: DropReason },
): Moved {
  const mirrored = isMirroring(matrix);
  const kept: LabeledObject[] = [];
  const dropped: Dropped[] = [];
  for (const object of objects) {
    const left = visible === null ? 1 : visibleShare(object.shape, matrix, frame);
    const inside = left > nothing && left >= (visible ?? 0) - nothing;
    const moved = inside ? clipShape(mapShape(object.shape, matrix, frame), frame.width, frame.height) : null;
    if (!moved || isDegenerate(moved)) {
      dropped.push({ object, reason, left, matrix });
      continue;
    }
    // An area that came with the object was that of the picture before.
    const { givenArea: _, ...rest } = object;
    kept.push({ ...rest, shape: mirrored ? swapped(moved, classes.get(object.class)) : moved });
  }
  return { objects: kept, dropped };
}

/**
 * Objects after cuts one after the other, in pixels of the last cut's own frame. An object goes at the first cut that
 * leaves less than `visible` of what was there before it; its matrix goes to the upright picture.
 */
export function cutObjects(
  objects: readonly LabeledObject[],
  cuts: readonly Box[],
  options: { visible: number; classes: ReadonlyMap<string, ClassInfo> },
): Moved {
  let present = [...objects];
  const dropped: Dropped[] = [];
  let origin = { x: 0, y: 0 };
  for (const { x, y, width, height } of cuts) {
    const shift = translation(origin.x - x, origin.y - y);
    const moved = moveObjects(present, shift, { width, height }, { ...options, reason: "cut" });
    // What a cut does not touch keeps the area that came with it.
    present = moved.objects;
    // All of them are told of in the upright picture.
    dropped.push(...moved.dropped.map((entry) => ({ ...entry, matrix: translation(origin.x, origin.y) })));
    origin = { x, y };
  }
  return { objects: present, dropped };
}
