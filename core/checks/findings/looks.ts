/** Labels that do not fit what the pictures look like, by the features of intake. */
import { nearestNeighbours } from "../../learning/nearest";
import { objectsIn, plural, type Check, type CheckedStock, type Proof } from "../check";

/** So many neighbours are asked for their class. */
const neighbours = 10;
/** A class of fewer objects has no neighbours of its own to speak for it. */
const fewest = 8;

/** An object with how sure it is that its label is wrong, 0 … 1. */
export type Doubt = { slot: number; object: number; likely: number; sure: number };

/**
 * Objects whose nearest neighbours have another class, those that are surest first. Each object is left out of those it is
 * judged by (leave-one-out cross-validated nearest neighbours: Wilson, IEEE Trans. SMC 2, 1972; how sure, as in
 * confident learning: Northcutt, Jiang & Chuang, JAIR 70, 2021, the share of neighbours of the likely class beyond what
 * that class has among the neighbours of its own objects on average).
 */
export function doubtfulLabels({ snapshot, slots, learned }: CheckedStock): Doubt[] {
  if (!learned) return [];
  const { bytes, objects } = learned.objectFeatures(snapshot);
  const known: { slot: number; object: number; place: number; index: number }[] = [];
  const sizes = new Map<number, number>();
  for (const slot of slots) {
    const first = snapshot.firstObject.at(slot);
    for (let object = first; object < first + snapshot.objectCount.at(slot); object++) {
      const place = objects[object] as number;
      if (place < 0) continue;
      const index = snapshot.objectClass.at(object);
      known.push({ slot, object, place, index });
      sizes.set(index, (sizes.get(index) ?? 0) + 1);
    }
  }
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
    const names = new Map(snapshot.classes.map(({ id, name }) => [snapshot.classIndex(id), name]));
    // One finding a pair of classes, so that one press mends it.
    const pairs = new Map<string, Doubt[]>();
    for (const doubt of doubts) {
      const key = `${snapshot.objectClass.at(doubt.object)} ${doubt.likely}`;
      pairs.set(key, [...(pairs.get(key) ?? []), doubt]);
    }
    for (const [key, group] of pairs) {
      const [from, to] = key.split(" ").map((index) => names.get(Number(index))) as [string?, string?];
      const proofs = asProofs(group);
      const count = objectsIn(proofs);
      const into = snapshot.classIds[group[0]?.likely as number];
      if (from === undefined || to === undefined || into === undefined) continue;
      yield {
        subject: `${from} ${to}`,
        sentence: `${plural(count, `${from} looks`, `${from} look`)} like ${to}.`,
        ...{ count, proofs, where: null },
        mends: [{ label: `Make it ${to}`, into }],
      };
    }
  },
};

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
