/** The histograms over a stock. Each counts what matches all filters but its own. */
import { labelStates } from "../model/item";
import { objectBins, type StockFilter } from "../stock/filter";
import { bitOf, factsByDelivery, failures, textsBySlot } from "./matching";
import { splitCodes, type Snapshot } from "./snapshot";

/** What may be known of images through their deliveries or files, in the order it is shown. */
export const knownFacts = ["source", "licence", "camera", "place", "day"] as const;
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

/** How many of the slots that fail nothing but, at most, `own` have each value from 0 to `size` − 1. */
function histogram(fails: Uint16Array, own: number, size: number, valueOf: (slot: number) => number): Uint32Array {
  const counts = new Uint32Array(size);
  for (let slot = 0; slot < fails.length; slot++)
    if (((fails[slot] as number) & ~own) === 0) (counts[valueOf(slot)] as number)++;
  return counts;
}

const keyed = (keys: readonly string[], counts: Uint32Array) =>
  Object.fromEntries(keys.map((key, at) => [key, counts[at] ?? 0]));

function classCounts(snapshot: Snapshot, fails: Uint16Array): Facets["class"] {
  const own = bitOf.class;
  for (const { id } of snapshot.classes) snapshot.classIndex(id);
  const counts = new Uint32Array(snapshot.classIds.length);
  // The slot that counted a class last: each class counts once an image.
  const last = new Int32Array(snapshot.classIds.length).fill(-1);
  const { objectClass, firstObject, objectCount, classSet } = snapshot;
  for (let slot = 0; slot < fails.length; slot++) {
    if (((fails[slot] as number) & ~own) !== 0) continue;
    const note = (index: number) => {
      if (last[index] === slot) return;
      last[index] = slot;
      (counts[index] as number)++;
    };
    const end = firstObject.at(slot) + objectCount.at(slot);
    for (let at = firstObject.at(slot); at < end; at++) note(objectClass.at(at));
    if (classSet.at(slot) !== 0) for (const id of snapshot.classesOf(slot)) note(snapshot.classIndex(id));
  }
  return snapshot.classes.map(({ id, name, colour, code }) => ({
    ...{ name, colour, code },
    count: counts[snapshot.classIndex(id)] ?? 0,
  }));
}

function tagCounts(snapshot: Snapshot, fails: Uint16Array): FactCount[] {
  const sets = histogram(fails, bitOf.tag, snapshot.tagSets.size, (slot) => snapshot.tagSet.at(slot));
  const all = histogram(fails, ~0, snapshot.tagSets.size, (slot) => snapshot.tagSet.at(slot));
  const counts = new Map<string, number>();
  all.forEach((standing, code) => {
    if (code === 0 || standing === 0) return;
    for (const tag of snapshot.tagSets.textOf(code).split("\u0000"))
      counts.set(tag, (counts.get(tag) ?? 0) + (sets[code] as number));
  });
  return [...counts].map(([key, count]) => ({ key, count })).sort((a, b) => (a.key < b.key ? -1 : 1));
}

/** Every value of a fact in stock, and how many match; nothing where no image's is known. */
function factCounts(snapshot: Snapshot, fails: Uint16Array, fact: KnownFact): FactCount[] {
  const byDelivery = fact === "day" || fact === "place" ? null : factsByDelivery(snapshot, fact);
  const textOf =
    fact === "day" || fact === "place"
      ? textsBySlot(snapshot, fact)
      : (slot: number) => byDelivery?.get(snapshot.delivery.at(slot)) ?? "";
  const counts = new Map<string, number>();
  for (let slot = 0; slot < fails.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    const text = textOf(slot);
    const matches = ((fails[slot] as number) & ~bitOf[fact]) === 0 ? 1 : 0;
    counts.set(text, (counts.get(text) ?? 0) + matches);
  }
  if ([...counts.keys()].every((text) => text === "")) return [];
  const order = (a: FactCount, b: FactCount) => Number(a.key === "") - Number(b.key === "") || (a.key < b.key ? -1 : 1);
  return [...counts].map(([key, count]) => ({ key, count })).sort(order);
}

function deliveryCounts(snapshot: Snapshot, fails: Uint16Array): Facets["delivery"] {
  const indexes = new Map(snapshot.deliveries.map(({ id }, at) => [id, at]));
  const unknown = snapshot.deliveries.length;
  const counts = histogram(
    fails,
    bitOf.delivery,
    unknown + 1,
    (slot) => indexes.get(snapshot.delivery.at(slot)) ?? unknown,
  );
  return snapshot.deliveries.map(({ id, name }, at) => ({ id, name, count: counts[at] ?? 0 }));
}

export function facetsOf(snapshot: Snapshot, filter: StockFilter): Facets {
  const fails = failures(snapshot, filter);
  let [total, matching, matchingObjects] = [0, 0, 0];
  for (let slot = 0; slot < fails.length; slot++) {
    total += snapshot.present.at(slot);
    if (fails[slot] !== 0) continue;
    matching++;
    matchingObjects += snapshot.objectCount.at(slot);
  }
  const splits = histogram(fails, bitOf.split, splitCodes.length, (slot) => snapshot.split.at(slot));
  const states = histogram(fails, bitOf.state, labelStates.length, (slot) => snapshot.state.at(slot));
  const bins = histogram(fails, bitOf.objects, objectBins + 1, (slot) =>
    Math.min(objectBins, snapshot.objectCount.at(slot)),
  );
  return {
    total,
    matching,
    matchingObjects,
    class: classCounts(snapshot, fails),
    split: keyed(splitCodes, splits),
    state: keyed(labelStates, states),
    delivery: deliveryCounts(snapshot, fails),
    tag: tagCounts(snapshot, fails),
    objects: [...bins],
    ...(Object.fromEntries(knownFacts.map((fact) => [fact, factCounts(snapshot, fails, fact)])) as Record<
      KnownFact,
      FactCount[]
    >),
  };
}
