/** Objects about which two people said different things: each as both would have it. */
import { clipBox } from "../geometry/box";
import { shapeBounds } from "../geometry/shape";
import { applySteps } from "../labels/apply";
import type { Labels, StockObject } from "../labels/labels";
import type { Step } from "../labels/step";
import { Failure } from "../model/failure";
import type { Size } from "../model/item";
import type { Box } from "../model/shape";

/** Null where one of the two took it away. */
export type DisputedObject = { uid: string; mine: StockObject | null; theirs: StockObject | null };

const uidOf = (step: Step): string | null =>
  step.do === "add-object" ? step.object.uid : "uid" in step && !step.do.endsWith("suggestion") ? step.uid : null;

/** The object as steps leave it; null where they take it away, or it is not there for them. */
function afterSteps(labels: Labels, object: StockObject | null, steps: readonly Step[]): StockObject | null {
  try {
    return applySteps({ ...labels, objects: object ? [object] : [] }, steps).after.objects[0] ?? null;
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    return null;
  }
}

/**
 * The objects that `steps` change, as they leave them and as they stand in `theirs`. `own` are the labels on which the
 * steps were done: what somebody took away meanwhile is known from there.
 */
export function disputedObjects(steps: readonly Step[], theirs: Labels, own: Labels): DisputedObject[] {
  const byUid = new Map<string, Step[]>();
  for (const step of steps) {
    const uid = uidOf(step);
    if (uid !== null) byUid.set(uid, [...(byUid.get(uid) ?? []), step]);
  }
  return Array.from(byUid, ([uid, some]) => {
    const there = theirs.objects.find((object) => object.uid === uid) ?? null;
    const before = there ?? own.objects.find((object) => object.uid === uid) ?? null;
    return { uid, mine: afterSteps(theirs, before, some), theirs: there };
  });
}

/** So much of its longer side is shown around what is disputed, and so many pixels at least. */
const margin = { share: 0.4, least: 24 };

/** The part of the picture in which all disputed objects lie, in its pixels; null where none of them has a place. */
export function disputedFrame(disputed: readonly DisputedObject[], size: Size): Box | null {
  const boxes = disputed.flatMap(({ mine, theirs }) =>
    [mine, theirs].flatMap((object) => (object ? (shapeBounds(object.shape) ?? []) : [])),
  );
  if (boxes.length === 0) return null;
  const left = Math.min(...boxes.map(({ x }) => x));
  const top = Math.min(...boxes.map(({ y }) => y));
  const right = Math.max(...boxes.map(({ x, width }) => x + width));
  const bottom = Math.max(...boxes.map(({ y, height }) => y + height));
  const around = Math.max(margin.least, margin.share * Math.max(right - left, bottom - top));
  const wide = {
    x: left - around,
    y: top - around,
    width: right - left + 2 * around,
    height: bottom - top + 2 * around,
  };
  return clipBox(wide, size.width, size.height);
}
