/** Objects of one image that lie on each other, by intersection over union of their boxes. */
import type { Snapshot } from "../../snapshot/snapshot";
import { localCheck, objectsIn, plural } from "../check";

/** Intersection over union of the boxes of two objects, 0 … 1. */
function overlapOf({ x, y, boxWidth, boxHeight }: Snapshot, a: number, b: number): number {
  const across = Math.min(x.at(a) + boxWidth.at(a), x.at(b) + boxWidth.at(b)) - Math.max(x.at(a), x.at(b));
  const down = Math.min(y.at(a) + boxHeight.at(a), y.at(b) + boxHeight.at(b)) - Math.max(y.at(a), y.at(b));
  if (across <= 0 || down <= 0) return 0;
  const both = across * down;
  return both / (boxWidth.at(a) * boxHeight.at(a) + boxWidth.at(b) * boxHeight.at(b) - both);
}

/** Pairs of objects of an image whose boxes overlap by at least `least`, the earlier drawn first. */
export function overlappingPairs(snapshot: Snapshot, slot: number, least: number): [number, number][] {
  const first = snapshot.firstObject.at(slot);
  const order = Array.from({ length: snapshot.objectCount.at(slot) }, (_, n) => first + n).sort(
    (a, b) => snapshot.x.at(a) - snapshot.x.at(b),
  );
  const pairs: [number, number][] = [];
  for (const [n, a] of order.entries()) {
    const right = snapshot.x.at(a) + snapshot.boxWidth.at(a);
    for (let m = n + 1; m < order.length; m++) {
      const b = order[m] as number;
      // From here on all begin to the right of this one.
      if (snapshot.x.at(b) >= right) break;
      if (overlapOf(snapshot, a, b) >= least) pairs.push(a < b ? [a, b] : [b, a]);
    }
  }
  return pairs;
}

/** Judges an image by such pairs of one class, or of two; of each pair what was drawn later is meant. */
const judgePairs = (snapshot: Snapshot, least: number, ofOneClass: boolean) => (slot: number) => {
  if (snapshot.objectCount.at(slot) < 2) return null;
  const pairs = overlappingPairs(snapshot, slot, least).filter(
    ([a, b]) => (snapshot.objectClass.at(a) === snapshot.objectClass.at(b)) === ofOneClass,
  );
  return pairs.length > 0 ? [...new Set(pairs.map(([, later]) => later))] : null;
};

export const objectDuplicate = localCheck({
  code: "object-duplicate",
  severity: "warning",
  counts: "objects",
  means:
    "Objects of one class on one image whose boxes overlap so much that they are one thing, drawn twice (intersection over union).",
  threshold: { unit: "% overlap", usual: 90, least: 50, most: 100, step: 1 },
  judge: (snapshot, percent) => judgePairs(snapshot, percent / 100, true),
  conclude: (proofs) => {
    const count = objectsIn(proofs);
    return {
      sentence: `${plural(count, "object was", "objects were")} drawn twice.`,
      count,
      mends: [{ label: "Remove the later ones", removes: "objects" }],
    };
  },
});

export const classesOnOnePlace = localCheck({
  code: "classes-on-one-place",
  severity: "warning",
  counts: "objects",
  means:
    "Objects of different classes on one image whose boxes are nearly the same (intersection over union): one thing under two names.",
  threshold: { unit: "% overlap", usual: 85, least: 50, most: 100, step: 1 },
  judge: (snapshot, percent) => judgePairs(snapshot, percent / 100, false),
  conclude: (proofs) => {
    const count = objectsIn(proofs);
    const sentence = `${plural(count, "object lies", "objects lie")} on the place of an object of another class.`;
    return { sentence, count };
  },
});
