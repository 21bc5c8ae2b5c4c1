/** Labels that do not fit what the pictures look like, by the features of intake. */
import { Column } from "../../columns/column";
import { nearestNeighbours } from "../../learning/nearest";
import type { Snapshot } from "../../snapshot/snapshot";
import { eachObject, imagesAsProofs, objectsIn, plural, type Check, type CheckedStock, type Proof } from "../check";
import type { Doubt, Looks, Unlike } from "../looks";

/** So many neighbours are asked for their class. */
const neighbours = 10;
/** A class of fewer objects has no neighbours of its own to speak for it. */
const fewest = 8;

/** What has one label: where its features begin, and the index of its class. */
type Labeled = { slot: number; object: number; place: number; index: number };

/** How often neighbours of one class stand around items of another: the logarithms of their shares, each pair seen once more. */
class Surroundings {
  private readonly pairs = new Map<number, number>();
  private readonly totals = new Map<number, number>();
  constructor(private readonly classes: number) {}

  add(own: number, near: number): void {
    const pair = own * this.classes + near;
    this.pairs.set(pair, (this.pairs.get(pair) ?? 0) + 1);
    this.totals.set(own, (this.totals.get(own) ?? 0) + 1);
  }
  logShare(own: number, near: number): number {
    const pair = this.pairs.get(own * this.classes + near) ?? 0;
    return Math.log((pair + 1) / ((this.totals.get(own) ?? 0) + this.classes));
  }
}

/**
 * Those whose nearest neighbours speak for another class, those that are surest first. Each is left out of those it is
 * judged by (leave-one-out cross-validated nearest neighbours: Wilson, IEEE Trans. SMC 2, 1972). What neighbours usually
 * stand around a class is counted over all of it, with Laplace's rule; a label is doubted where its neighbours are likelier
 * around another class (Zhang & Zhou, ML-KNN, Pattern Recognition 40, 2007), so that classes which look alike doubt each
 * other less. How sure: 1 - 1/r for neighbours that are r times as likely there, in the geometric mean of all.
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
  const classes = new Map([...new Set(judged.map(({ index }) => index))].map((index, n) => [index, n]));
  const indexes = [...classes.keys()];
  const numbers = Int32Array.from(judged, ({ index }) => classes.get(index) as number);
  const around = (item: number) =>
    Array.from(near.subarray(item * neighbours, (item + 1) * neighbours))
      .filter((other) => other >= 0)
      .map((other) => numbers[other] as number);
  const surroundings = new Surroundings(indexes.length);
  for (const [item, own] of numbers.entries()) for (const other of around(item)) surroundings.add(own, other);
  return judged
    .flatMap(({ slot, object }, item): Doubt[] => {
      const own = numbers[item] as number;
      const others = around(item);
      let [likely, most] = [own, 0];
      for (const candidate of new Set(others)) {
        if (candidate === own) continue;
        const ratios = others.map((one) => surroundings.logShare(candidate, one) - surroundings.logShare(own, one));
        const mean = ratios.reduce((sum, ratio) => sum + ratio, 0) / ratios.length;
        if (mean > most) [likely, most] = [candidate, mean];
      }
      return likely === own ? [] : [{ slot, object, likely: indexes[likely] as number, sure: 1 - Math.exp(-most) }];
    })
    .sort((a, b) => b.sure - a.sure || a.object - b.object);
}

/** Objects that look as if they were of another class. */
export function doubtfulLabels({ snapshot, slots, learned, looks }: CheckedStock): Doubt[] {
  if (looks) return amongSlots(looks.labels, slots, snapshot);
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
export function doubtfulImages({ snapshot, slots, learned, looks }: CheckedStock): Doubt[] {
  if (looks) return amongSlots(looks.images, slots, snapshot);
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

/** Of what was found before, what lies on these images. */
function amongSlots<T extends { slot: number }>(found: readonly T[], slots: Uint32Array, { length }: Snapshot): T[] {
  const isMeant = new Uint8Array(length);
  for (const slot of slots) isMeant[slot] = 1;
  return found.filter(({ slot }) => isMeant[slot] === 1);
}

/** All that is compared, as it is kept where comparing takes long. */
export function compareLooks(stock: CheckedStock): Looks {
  return { labels: doubtfulLabels(stock), images: doubtfulImages(stock), unlike: unlikeObjects(stock) };
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
    `Objects whose ${neighbours} nearest neighbours by colour, edges and texture usually stand around another class; ` +
    `how sure is 1 - 1/r, where such neighbours are r times as likely there (geometric mean). ` +
    `Nearest neighbours, each object left out: Wilson, 1972; what neighbours say of a class: Zhang and Zhou, 2007. Classes of fewer than ${fewest} objects are not judged.`,
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
  means: `Images of one image-level class whose ${neighbours} nearest neighbours usually stand around another one, found as for objects. Classes of fewer than ${fewest} images are not judged.`,
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

/** Objects that lie nearer to another class's centre than to that of their own, by the least that is ever said. */
function unlikeObjects({ snapshot, slots, learned, looks }: CheckedStock): Unlike[] {
  if (looks) return amongSlots(looks.unlike, slots, snapshot);
  if (!learned) return [];
  const [slotOf, objects] = [new Column(Uint32Array), new Column(Uint32Array)];
  for (const slot of slots)
    eachObject(snapshot, slot, (object) => {
      slotOf.push(slot);
      objects.push(object);
    });
  const found: Unlike[] = [];
  learned.objectsFromOthers(snapshot, objects.used).forEach((farther, n) => {
    if (100 * -farther >= leastHundredths) found.push({ slot: slotOf.at(n), object: objects.at(n), nearer: -farther });
  });
  return found;
}

const leastHundredths = 1;

/** How much nearer another class's centre has to be before it is said, in hundredths of the feature's range. */
export const unlikeItsClass: Check = {
  code: "object-unlike-class",
  severity: "info",
  counts: "objects",
  means:
    "Objects that lie farther from the centre of their class than from that of another one, by so much of the way (means of features; distances as in *stands out* on cut-outs).",
  threshold: { unit: "hundredths nearer", usual: 8, least: leastHundredths, most: 50, step: 1 },
  *find(stock, hundredths) {
    const bySlot = new Map<number, { slot: number; objects: number[]; most: number }>();
    for (const { slot, object, nearer } of unlikeObjects(stock)) {
      if (100 * nearer < hundredths) continue;
      const { objects, most } = bySlot.get(slot) ?? { objects: [], most: 0 };
      bySlot.set(slot, { slot, objects: [...objects, object], most: Math.max(most, nearer) });
    }
    const proofs: Proof[] = [...bySlot.values()].sort((a, b) => b.most - a.most);
    const count = objectsIn(proofs);
    if (count > 0)
      yield {
        subject: "",
        sentence: `${plural(count, "object looks", "objects look")} more like another class than its own.`,
        ...{ count, proofs, where: null },
      };
  },
};
