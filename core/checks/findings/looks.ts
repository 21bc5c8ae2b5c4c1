/** Labels that do not fit what the pictures look like, by the features of intake. */
import { nearestNeighbours } from "../../learning/nearest";
import type { Snapshot } from "../../snapshot/snapshot";
import { eachObject, imagesAsProofs, objectsIn, plural, type Check, type CheckedStock, type Proof } from "../check";

/** So many neighbours are asked for their class. */
const neighbours = 10;
/** A class of fewer objects has no neighbours of its own to speak for it. */
const fewest = 8;

/** An object, or an image where there is none, with how sure it is that its label is wrong, 0 … 1. */
export type Doubt = { slot: number; object: number; likely: number; sure: number };

/** What has one label: where its features begin, and the index of its class. */
type Labeled = { slot: number; object: number; place: number; index: number };

/**
 * Those whose nearest neighbours have another class, those that are surest first. Each is left out of those it is judged by
 * (leave-one-out cross-validated nearest neighbours: Wilson, IEEE Trans. SMC 2, 1972; how sure, as in confident learning:
 * Northcutt, Jiang & Chuang, JAIR 70, 2021, the share of neighbours of the likely class beyond what that class has among
 * the neighbours of its own on average).
 */
function doubtsAmong(bytes: Uint8Array, known: readonly Labeled[]): Doubt[] {
  const sizes = new Map<number, number>();
  for (const { index } of known) sizes.set(index, (sizes.get(index) ?? 0) + 1);
  const judged = known.filter(({ index }) => (sizes.get(index) ?? 0) >= fewest);
  const near = nearestNeighbours(
    bytes,
    judged.map(({ place }) => place),
    neighbours,
  );
  const sharesOf = (item: number) => {
    const shares = new Map<number, number>();
    let total = 0;
    for (let n = item * neighbours; n < (item + 1) * neighbours; n++) {
      const other = judged[near[n] as number];
      if (!other) continue;
      total++;
      shares.set(other.index, (shares.get(other.index) ?? 0) + 1);
    }
    return new Map([...shares].map(([index, count]) => [index, count / Math.max(1, total)]));
  };
  const all = judged.map((_, item) => sharesOf(item));
  // How sure the neighbours of a class's own objects are of it: what is asked of an object that is said to be of it.
  const usual = new Map<number, { sum: number; count: number }>();
  for (const [item, { index }] of judged.entries()) {
    const entry = usual.get(index) ?? { sum: 0, count: 0 };
    usual.set(index, { sum: entry.sum + (all[item]?.get(index) ?? 0), count: entry.count + 1 });
  }
  const asked = (index: number) => {
    const { sum, count } = usual.get(index) ?? { sum: 1, count: 1 };
    return sum / count;
  };
  return judged
    .flatMap(({ slot, object, index }, item): Doubt[] => {
      const shares = all[item] ?? new Map<number, number>();
      const [likely, share] = [...shares].sort((a, b) => b[1] - a[1])[0] ?? [index, 0];
      const own = shares.get(index) ?? 0;
      return likely !== index && share >= asked(likely) && share > own
        ? [{ slot, object, likely, sure: share - own }]
        : [];
    })
    .sort((a, b) => b.sure - a.sure || a.object - b.object);
}

/** Objects that look as if they were of another class. */
export function doubtfulLabels({ snapshot, slots, learned }: CheckedStock): Doubt[] {
  if (!learned) return [];
  const { bytes, objects } = learned.objectFeatures(snapshot);
  const known: Labeled[] = [];
  for (const slot of slots)
    eachObject(snapshot, slot, (object) => {
      const place = objects[object] as number;
      if (place >= 0) known.push({ slot, object, place, index: snapshot.objectClass.at(object) });
    });
  return doubtsAmong(bytes, known);
}

/** Images of one image-level class that look as if they were of another one. */
export function doubtfulImages({ snapshot, slots, learned }: CheckedStock): Doubt[] {
  if (!learned) return [];
  const known = Array.from(slots).flatMap((slot): Labeled[] => {
    const set = snapshot.classSet.at(slot);
    const [only, ...others] = set === 0 ? [] : snapshot.classesIn(set);
    const place = learned.imagePlace(snapshot, slot);
    if (only === undefined || others.length > 0 || place < 0) return [];
    return [{ slot, object: slot, place, index: snapshot.classIndex(only) }];
  });
  return doubtsAmong(learned.objectFeatures(snapshot).bytes, known);
}

function asProofs(doubts: readonly Doubt[]): Proof[] {
  const bySlot = new Map<number, number[]>();
  for (const { slot, object } of doubts) bySlot.set(slot, [...(bySlot.get(slot) ?? []), object]);
  return [...bySlot].map(([slot, objects]) => ({ slot, objects }));
}

export const probablyMislabeled: Check = {
  code: "probably-mislabeled",
  severity: "warning",
  counts: "objects",
  means:
    `Objects whose ${neighbours} nearest neighbours by colour, edges and texture have another class, by so much of them as that class usually has among its own ` +
    `(nearest neighbours, each object left out: Wilson, 1972; thresholds a class as in confident learning: Northcutt et al., 2021). Classes of fewer than ${fewest} objects are not judged.`,
  threshold: { unit: "% sure", usual: 70, least: 10, most: 100, step: 5 },
  *find(stock, percent) {
    const { snapshot } = stock;
    const doubts = doubtfulLabels(stock).filter(({ sure }) => 100 * sure >= percent);
    for (const { from, to, into, group } of pairsOf(snapshot, doubts, (object) => snapshot.objectClass.at(object))) {
      const proofs = asProofs(group);
      const count = objectsIn(proofs);
      yield {
        subject: `${from} ${to}`,
        sentence: `${plural(count, `${from} looks`, `${from} look`)} like ${to}.`,
        ...{ count, proofs, where: null },
        mends: [{ label: `Make it ${to}`, into }],
      };
    }
  },
};

export const imageProbablyMislabeled: Check = {
  code: "image-probably-mislabeled",
  severity: "warning",
  counts: "images",
  means: `Images of one image-level class whose ${neighbours} nearest neighbours have another one, found as for objects. Classes of fewer than ${fewest} images are not judged.`,
  threshold: { unit: "% sure", usual: 70, least: 10, most: 100, step: 5 },
  *find(stock, percent) {
    const { snapshot } = stock;
    const doubts = doubtfulImages(stock).filter(({ sure }) => 100 * sure >= percent);
    const classOf = (slot: number) => snapshot.classIndex(snapshot.classesIn(snapshot.classSet.at(slot))[0] ?? 0);
    for (const { from, to, into, group } of pairsOf(snapshot, doubts, classOf))
      yield {
        subject: `${from} ${to}`,
        sentence: `${plural(group.length, `image of ${from} looks`, `images of ${from} look`)} like ${to}.`,
        ...{ count: group.length, proofs: imagesAsProofs(group.map(({ slot }) => slot)), where: null },
        mends: [{ label: `Make it ${to}`, request: { do: "set-classes", classes: [into] } }],
      };
  },
};

type Pair = { from: string; to: string; into: number; group: Doubt[] };

/** One finding a pair of classes, so that one press mends it; `classOf` gives the index of what a doubt is about. */
function pairsOf(snapshot: Snapshot, doubts: readonly Doubt[], classOf: (object: number) => number): Pair[] {
  const names = new Map(snapshot.classes.map(({ id, name }) => [snapshot.classIndex(id), name]));
  const pairs = new Map<string, Pair>();
  for (const doubt of doubts) {
    const [index, { likely }] = [classOf(doubt.object), doubt];
    const [from, to, into] = [names.get(index), names.get(likely), snapshot.classIds[likely]];
    if (from === undefined || to === undefined || into === undefined) continue;
    const pair = pairs.get(`${index} ${likely}`) ?? { from, to, into, group: [] };
    pairs.set(`${index} ${likely}`, pair);
    pair.group.push(doubt);
  }
  return [...pairs.values()];
}

/** How much nearer another class's centre has to be before it is said, in hundredths of the feature's range. */
export const unlikeItsClass: Check = {
  code: "object-unlike-class",
  severity: "info",
  counts: "objects",
  means:
    "Objects that lie farther from the centre of their class than from that of another one, by so much of the way (means of features; distances as in *stands out* on cut-outs).",
  threshold: { unit: "hundredths nearer", usual: 8, least: 1, most: 50, step: 1 },
  *find(stock, hundredths) {
    const { snapshot, slots, learned } = stock;
    if (!learned) return;
    const proofs: (Proof & { most: number })[] = [];
    for (const slot of slots) {
      const first = snapshot.firstObject.at(slot);
      const objects: number[] = [];
      let most = 0;
      for (let object = first; object < first + snapshot.objectCount.at(slot); object++) {
        const nearer = -(learned.objectsFromOthers(snapshot, snapshot.objectClass.at(object))[object] as number);
        if (!(100 * nearer >= hundredths)) continue;
        objects.push(object);
        most = Math.max(most, nearer);
      }
      if (objects.length > 0) proofs.push({ slot, objects, most });
    }
    proofs.sort((a, b) => b.most - a.most);
    const count = objectsIn(proofs);
    if (count > 0)
      yield {
        subject: "",
        sentence: `${plural(count, "object looks", "objects look")} more like another class than its own.`,
        ...{ count, proofs, where: null },
      };
  },
};
