/** The histograms over a stock. Each counts what matches all filters but its own. */
import { labelStates } from "../model/item";
import type { Selection } from "../selection/chosen";
import { objectBins } from "../selection/dimensions";
import type { Column } from "../columns/column";
import { absent, bitOf, failures } from "./matching";
import { textsByDelivery } from "./delivery-texts";
import { splitCodes, type Snapshot } from "./snapshot";

/** What may be known of images through their deliveries or files, in the order it is shown. */
export const knownFacts = ["source", "licence", "camera", "place", "taken"] as const;
export type KnownFact = (typeof knownFacts)[number];
/** Images by what one fact says of them; "" stands for what is not said. */
export type FactCount = { key: string; count: number };

export type Facets = {
  total: number;
  matching: number;
  matchingObjects: number;
  class: { name: string; colour: number; code: string; count: number }[];
  split: Record<string, number>;
  state: Record<string, number>;
  delivery: { id: number; name: string; count: number }[];
  tag: FactCount[];
  objects: number[];
} & Record<KnownFact, FactCount[]>;

/** How many of the slots that fail nothing but, at most, `own` have each code from 0 to `size` − 1. */
function histogram(
  fails: Uint16Array,
  kind: number,
  size: number,
  column: Column<Uint8Array> | Column<Uint32Array>,
): Uint32Array {
  const counts = new Uint32Array(size);
  const codes = column.values;
  const others = ~kind;
  for (let slot = 0; slot < fails.length; slot++)
    if (((fails[slot] as number) & others) === 0) (counts[codes[slot] as number] as number)++;
  return counts;
}

const keyed = (keys: readonly string[], counts: Uint32Array) =>
  Object.fromEntries(keys.map((key, at) => [key, counts[at] ?? 0]));

function classCounts(snapshot: Snapshot, fails: Uint16Array): Facets["class"] {
  const others = ~bitOf.class;
  for (const { id } of snapshot.classes) snapshot.classIndex(id);
  const counts = new Uint32Array(snapshot.classIds.length);
  // The slot that counted a class last: each class counts once an image.
  const last = new Int32Array(snapshot.classIds.length).fill(-1);
  const sets = Array.from({ length: snapshot.classSets.size }, (_, code) =>
    code === 0 ? [] : snapshot.classesIn(code).map((id) => snapshot.classIndex(id)),
  );
  const objects = snapshot.objectClass.values;
  const [first, count, classSet] = [snapshot.firstObject.values, snapshot.objectCount.values, snapshot.classSet.values];
  for (let slot = 0; slot < fails.length; slot++) {
    if (((fails[slot] as number) & others) !== 0) continue;
    const end = (first[slot] as number) + (count[slot] as number);
    for (let at = first[slot] as number; at < end; at++) {
      const index = objects[at] as number;
      if (last[index] === slot) continue;
      last[index] = slot;
      (counts[index] as number)++;
    }
    const set = classSet[slot] as number;
    if (set === 0) continue;
    for (const index of sets[set] as number[]) {
      if (last[index] === slot) continue;
      last[index] = slot;
      (counts[index] as number)++;
    }
  }
  return snapshot.classes.map(({ id, name, colour, code }) => ({
    ...{ name, colour, code },
    count: counts[snapshot.classIndex(id)] ?? 0,
  }));
}

function tagCounts(snapshot: Snapshot, fails: Uint16Array): FactCount[] {
  const matching = histogram(fails, bitOf.tag, snapshot.tagSets.size, snapshot.tagSet);
  const standing = histogram(fails, ~absent, snapshot.tagSets.size, snapshot.tagSet);
  const counts = new Map<string, number>();
  standing.forEach((images, code) => {
    if (code === 0 || images === 0) return;
    for (const tag of snapshot.tagsIn(code)) counts.set(tag, (counts.get(tag) ?? 0) + (matching[code] as number));
  });
  return [...counts].map(([key, count]) => ({ key, count })).sort((a, b) => (a.key < b.key ? -1 : 1));
}

/** Adds up counts by the texts that their codes stand for; texts that no image has are left out. */
function addTexts(
  counts: Map<string, number>,
  matching: Uint32Array,
  standing: Uint32Array,
  textOf: (code: number) => string,
): void {
  standing.forEach((images, code) => {
    if (images === 0) return;
    const text = textOf(code);
    counts.set(text, (counts.get(text) ?? 0) + (matching[code] as number));
  });
}

/** Every value of a fact in stock, and how many match; nothing where no image's is known. */
function factCounts(snapshot: Snapshot, fails: Uint16Array, fact: KnownFact): FactCount[] {
  const counts = new Map<string, number>();
  const delivered = textsByDelivery(snapshot, fact === "taken" ? "day" : fact);
  const [column, dictionary] =
    fact === "taken"
      ? [snapshot.day, snapshot.days]
      : fact === "place"
        ? [snapshot.place, snapshot.places]
        : [null, null];
  const size = delivered.length;
  const [matching, standing] = [bitOf[fact], ~absent].map((mask) =>
    histogram(fails, mask, size, snapshot.delivery),
  ) as [Uint32Array, Uint32Array];
  if (column && dictionary.size > 1) {
    const [ownMatching, ownStanding] = [bitOf[fact], ~absent].map((mask) =>
      histogram(fails, mask, dictionary.size, column),
    ) as [Uint32Array, Uint32Array];
    // Images that tell themselves are taken out of what their deliveries tell of them.
    const [codes, deliveries] = [column.values, snapshot.delivery.values];
    for (let slot = 0; slot < fails.length; slot++) {
      const code = codes[slot] as number;
      if (code === 0) continue;
      const failed = fails[slot] as number;
      const delivery = deliveries[slot] as number;
      if ((failed & ~bitOf[fact]) === 0) (matching[delivery] as number)--;
      if ((failed & absent) === 0) (standing[delivery] as number)--;
    }
    [ownMatching[0], ownStanding[0]] = [0, 0];
    addTexts(counts, ownMatching, ownStanding, (code) => dictionary.textOf(code));
  }
  addTexts(counts, matching, standing, (index) => delivered[index] as string);
  if ([...counts.keys()].every((text) => text === "")) return [];
  const order = (a: FactCount, b: FactCount) => Number(a.key === "") - Number(b.key === "") || (a.key < b.key ? -1 : 1);
  return [...counts].map(([key, count]) => ({ key, count })).sort(order);
}

function deliveryCounts(snapshot: Snapshot, fails: Uint16Array): Facets["delivery"] {
  const counts = histogram(fails, bitOf.delivery, snapshot.deliveryIds.length, snapshot.delivery);
  const listed = snapshot.deliveries.filter((delivery) => delivery.listed);
  return listed.map(({ id, name }) => ({ id, name, count: counts[snapshot.deliveryIndex(id)] ?? 0 }));
}

/** Images by their number of objects, everything from `objectBins` on together. */
function binCounts(snapshot: Snapshot, fails: Uint16Array): number[] {
  const bins = new Uint32Array(objectBins + 1);
  const counts = snapshot.objectCount.values;
  for (let slot = 0; slot < fails.length; slot++)
    if (((fails[slot] as number) & ~bitOf.objects) === 0)
      (bins[Math.min(objectBins, counts[slot] as number)] as number)++;
  return [...bins];
}

export function facetsOf(snapshot: Snapshot, selection: Selection): Facets {
  const fails = failures(snapshot, selection);
  let [total, matching, matchingObjects] = [0, 0, 0];
  const [present, objectCounts] = [snapshot.present.values, snapshot.objectCount.values];
  for (let slot = 0; slot < fails.length; slot++) {
    total += present[slot] as number;
    if (fails[slot] !== 0) continue;
    matching++;
    matchingObjects += objectCounts[slot] as number;
  }
  const splits = histogram(fails, bitOf.split, splitCodes.length, snapshot.split);
  const states = histogram(fails, bitOf.state, labelStates.length, snapshot.state);
  return {
    total,
    matching,
    matchingObjects,
    class: classCounts(snapshot, fails),
    split: keyed(splitCodes, splits),
    state: keyed(labelStates, states),
    delivery: deliveryCounts(snapshot, fails),
    tag: tagCounts(snapshot, fails),
    objects: binCounts(snapshot, fails),
    ...(Object.fromEntries(knownFacts.map((fact) => [fact, factCounts(snapshot, fails, fact)])) as Record<
      KnownFact,
      FactCount[]
    >),
  };
}
