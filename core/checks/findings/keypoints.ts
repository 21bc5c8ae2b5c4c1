/** Keypoints by where they lie. Coordinates are in pixels of the image. */
import { pairsOf, type KeypointPair } from "../../model/keypoint-pairs";
import type { Keypoint } from "../../model/shape";
import type { Snapshot } from "../../snapshot/snapshot";
import {
  eachObject,
  judgeObjects,
  localCheck,
  objectsIn,
  plural,
  proofsOf,
  roundingPixels,
  type Check,
  type CheckedStock,
} from "../check";

const keypointsOf = (snapshot: Snapshot, object: number) => snapshot.keypoints.get(snapshot.objectId.at(object));

export const keypointOutsideBox = localCheck({
  code: "keypoint-outside-box",
  severity: "warning",
  counts: "objects",
  means: "Objects with a keypoint that is there and lies beyond their box by more than so much of its longer side.",
  threshold: { unit: "% of the side", usual: 5, least: 0, most: 100, step: 1 },
  judge: (snapshot, percent) => {
    const { x, y, boxWidth, boxHeight } = snapshot;
    if (snapshot.keypoints.size === 0) return () => null;
    return judgeObjects(snapshot, (at) => {
      const points = keypointsOf(snapshot, at);
      if (!points) return false;
      const slack = roundingPixels + (percent / 100) * Math.max(boxWidth.at(at), boxHeight.at(at));
      return points.some(
        (point) =>
          point.v > 0 &&
          (point.x < x.at(at) - slack ||
            point.y < y.at(at) - slack ||
            point.x > x.at(at) + boxWidth.at(at) + slack ||
            point.y > y.at(at) + boxHeight.at(at) + slack),
      );
    });
  },
  conclude: (proofs) => {
    const count = objectsIn(proofs);
    const words = [
      "object has a keypoint outside of its box",
      "objects have keypoints outside of their boxes",
    ] as const;
    return { sentence: `${plural(count, ...words)}.`, count };
  },
});

/** Fewer objects than this show no usual order. */
const fewest = 10;

/**
 * How the left and right of an object's pairs lie: 1 where all lefts are left of their rights, -1 where all are right of
 * them, 0 where they are mixed or fewer than one pair is there.
 */
function orderOf(points: readonly Keypoint[], pairs: readonly KeypointPair[]): number {
  const signs = pairs.flatMap(([left, right]) => {
    const [a, b] = [points[left], points[right]];
    return a && b && a.v > 0 && b.v > 0 && a.x !== b.x ? [Math.sign(b.x - a.x)] : [];
  });
  const [first = 0] = signs;
  return signs.every((sign) => sign === first) ? first : 0;
}

/** Each object of a class with pairs, by how its pairs lie in the picture. */
function ordersByClass({ snapshot, slots }: CheckedStock): Map<number, Map<number, number>> {
  const pairs = new Map(snapshot.classes.map((one) => [snapshot.classIndex(one.id), pairsOf(one)]));
  const orders = new Map<number, Map<number, number>>();
  for (const slot of slots) {
    eachObject(snapshot, slot, (object) => {
      const points = keypointsOf(snapshot, object);
      const index = snapshot.objectClass.at(object);
      const known = pairs.get(index) ?? [];
      if (!points || known.length === 0) return;
      const ofClass = orders.get(index) ?? new Map<number, number>();
      orders.set(index, ofClass.set(object, orderOf(points, known)));
    });
  }
  return orders;
}

export const keypointsSwapped: Check = {
  code: "keypoints-swapped",
  severity: "warning",
  counts: "objects",
  means: `Objects whose left and right keypoints lie the other way round in the picture than those of nearly all objects of their class. Classes of fewer than ${fewest} objects are not judged, nor those that are seen from both sides.`,
  threshold: { unit: "% lie the usual way", usual: 90, least: 60, most: 100, step: 1 },
  *find(stock, percent) {
    const { snapshot } = stock;
    if (snapshot.keypoints.size === 0) return;
    const swapped = new Set<number>();
    for (const orders of ordersByClass(stock).values()) {
      const count = (sign: number) => [...orders.values()].filter((order) => order === sign).length;
      const usual = count(1) >= count(-1) ? 1 : -1;
      const clear = count(1) + count(-1);
      if (clear < fewest || count(usual) * 100 < percent * clear) continue;
      for (const [object, order] of orders) if (order === -usual) swapped.add(object);
    }
    if (swapped.size === 0) return;
    const proofs = proofsOf(
      stock.slots,
      judgeObjects(snapshot, (object) => swapped.has(object)),
    );
    const count = objectsIn(proofs);
    yield {
      subject: "",
      sentence: `${plural(count, "object has", "objects have")} left and right the other way round than most of ${count === 1 ? "its" : "their"} class.`,
      ...{ count, proofs, where: null },
    };
  },
};
