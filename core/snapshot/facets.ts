/** The histograms over a stock. Each counts what matches all filters but its own. */
import { labelStates } from "../model/item";
import type { Selection } from "../selection/chosen";
import { objectBins, type Dimension } from "../selection/dimensions";
import type { Column } from "../columns/column";
import { textsByDelivery } from "./delivery-texts";
import type { Dictionary } from "./dictionary";
import { objectClassSets } from "./object-class-sets";
import { passing, type Passing } from "./passing";
import { onceARevision } from "./once-a-revision";
import { presentSlots } from "./present-slots";
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

type Codes = Column<Uint8Array> | Column<Uint32Array>;

/** How many images of each of several lists of slots have each code from 0 to `size` − 1. */
function histogram(lists: readonly Uint32Array[], column: Codes, size: number): Uint32Array {
  const counts = new Uint32Array(size);
  const codes = column.values;
  for (const slots of lists)
    for (let nth = 0; nth < slots.length; nth++) (counts[codes[slots[nth] as number] as number] as number)++;
  return counts;
}

/** The slots that the histogram of a dimension counts: what fails nothing but its own choice. */
const countedIn = ({ meant, but }: Passing, dimension: Dimension): Uint32Array[] => {
  const own = but[dimension];
  return own ? [meant, own] : [meant];
};

const keyed = (keys: readonly string[], counts: Uint32Array) =>
  Object.fromEntries(keys.map((key, at) => [key, counts[at] ?? 0]));

/** By the index of each class, on how many images it is, by an object or as a whole: each counts once an image. */
function classTally(snapshot: Snapshot, lists: readonly Uint32Array[]): Uint32Array {
  const { codes, sets } = objectClassSets(snapshot);
  for (const { id } of snapshot.classes) snapshot.classIndex(id);
  const wholes = Array.from({ length: snapshot.classSets.size }, (_, code) =>
    code === 0 ? [] : snapshot.classesIn(code).map((id) => snapshot.classIndex(id)),
  );
  const counts = new Uint32Array(snapshot.classIds.length);
  const [bySet, byWhole] = [new Uint32Array(sets.length), new Uint32Array(wholes.length)];
  const [setOf, wholeOf] = [codes.values, snapshot.classSet.values];
  for (const slots of lists)
    for (let nth = 0; nth < slots.length; nth++) {
      const slot = slots[nth] as number;
      const [set, whole] = [setOf[slot] as number, wholeOf[slot] as number];
      (bySet[set] as number)++;
      if (whole === 0) continue;
      if (set === 0) (byWhole[whole] as number)++;
      else for (const index of wholes[whole] ?? []) if (!(sets[set] ?? []).includes(index)) (counts[index] as number)++;
    }
  const add = (images: Uint32Array, classes: readonly (readonly number[])[]) =>
    images.forEach((count, code) => {
      if (count > 0) for (const index of classes[code] ?? []) counts[index] = (counts[index] as number) + count;
    });
  add(bySet, sets);
  add(byWhole, wholes);
  return counts;
}

function classCounts(snapshot: Snapshot, images: Passing): Facets["class"] {
  const counts = classTally(snapshot, countedIn(images, "class"));
  return snapshot.classes.map(({ id, name, colour, code }) => ({
    ...{ name, colour, code },
    count: counts[snapshot.classIndex(id)] ?? 0,
  }));
}

const byDelivery = (snapshot: Snapshot, slots: Uint32Array): Uint32Array =>
  histogram([slots], snapshot.delivery, snapshot.deliveryIds.length);

/** Slots with how many of their images each delivery brought, counted once for all that is asked of deliveries. */
type Delivered = { slots: Uint32Array; counts: Uint32Array };

/** Images by the codes of what they themselves say of a fact, and the others by their deliveries. */
type Told = { delivered: Uint32Array; own: Uint32Array | null };

/** What images tell themselves of a fact; null where none does, or files never tell it. */
function toldByImages(snapshot: Snapshot, fact: KnownFact): { column: Column<Uint32Array>; texts: Dictionary } | null {
  if (fact === "taken" && snapshot.days.size > 1) return { column: snapshot.day, texts: snapshot.days };
  if (fact === "place" && snapshot.places.size > 1) return { column: snapshot.place, texts: snapshot.places };
  return null;
}

/** What is told of a fact by the images of `most` and, where there are some, of `more`. */
function told(snapshot: Snapshot, fact: KnownFact, most: Delivered, more: Uint32Array | undefined): Told {
  const byImages = toldByImages(snapshot, fact);
  const delivered = most.counts.slice();
  if (more) byDelivery(snapshot, more).forEach((count, index) => (delivered[index] = (delivered[index] ?? 0) + count));
  if (!byImages) return { delivered, own: null };
  const own = new Uint32Array(byImages.texts.size);
  const [codes, deliveries] = [byImages.column.values, snapshot.delivery.values];
  for (const slots of more ? [most.slots, more] : [most.slots])
    for (let nth = 0; nth < slots.length; nth++) {
      const slot = slots[nth] as number;
      const code = codes[slot] as number;
      if (code === 0) continue;
      // An image that tells itself is taken out of what its delivery tells of it.
      (own[code] as number)++;
      (delivered[deliveries[slot] as number] as number)--;
    }
  return { delivered, own };
}

/** What is counted of all that is in stock, whatever is selected. */
const standing = onceARevision((snapshot) => {
  const slots = presentSlots(snapshot);
  const all = { slots, counts: byDelivery(snapshot, slots) };
  const facts = Object.fromEntries(knownFacts.map((fact) => [fact, told(snapshot, fact, all, undefined)]));
  return {
    tags: histogram([slots], snapshot.tagSet, snapshot.tagSets.size),
    facts: facts as Record<KnownFact, Told>,
  };
});

function tagCounts(snapshot: Snapshot, images: Passing): FactCount[] {
  const matching = histogram(countedIn(images, "tag"), snapshot.tagSet, snapshot.tagSets.size);
  const counts = new Map<string, number>();
  standing(snapshot).tags.forEach((standingImages, code) => {
    if (code === 0 || standingImages === 0) return;
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
function factCounts(snapshot: Snapshot, fact: KnownFact, meant: Delivered, { but }: Passing): FactCount[] {
  const counts = new Map<string, number>();
  const delivered = textsByDelivery(snapshot, fact === "taken" ? "day" : fact);
  const [matching, all] = [told(snapshot, fact, meant, but[fact]), standing(snapshot).facts[fact]];
  const texts = toldByImages(snapshot, fact)?.texts;
  if (texts && matching.own && all.own) addTexts(counts, matching.own, all.own, (code) => texts.textOf(code));
  addTexts(counts, matching.delivered, all.delivered, (index) => delivered[index] as string);
  if ([...counts.keys()].every((text) => text === "")) return [];
  const order = (a: FactCount, b: FactCount) => Number(a.key === "") - Number(b.key === "") || (a.key < b.key ? -1 : 1);
  return [...counts].map(([key, count]) => ({ key, count })).sort(order);
}

function deliveryCounts(snapshot: Snapshot, images: Passing): Facets["delivery"] {
  const counts = histogram(countedIn(images, "delivery"), snapshot.delivery, snapshot.deliveryIds.length);
  const listed = snapshot.deliveries.filter((delivery) => delivery.listed);
  return listed.map(({ id, name }) => ({ id, name, count: counts[snapshot.deliveryIndex(id)] ?? 0 }));
}

/** Images by their number of objects, everything from `objectBins` on together. */
function binCounts(snapshot: Snapshot, images: Passing): number[] {
  const bins = new Uint32Array(objectBins + 1);
  const counts = snapshot.objectCount.values;
  for (const slots of countedIn(images, "objects"))
    for (let nth = 0; nth < slots.length; nth++) {
      const count = counts[slots[nth] as number] as number;
      (bins[count < objectBins ? count : objectBins] as number)++;
    }
  return [...bins];
}

/** How many objects the images of some slots have together. */
function objectsOn(snapshot: Snapshot, slots: Uint32Array): number {
  const counts = snapshot.objectCount.values;
  let sum = 0;
  for (let nth = 0; nth < slots.length; nth++) sum += counts[slots[nth] as number] as number;
  return sum;
}

export function facetsOf(snapshot: Snapshot, selection: Selection): Facets {
  const images = passing(snapshot, selection);
  const meant = { slots: images.meant, counts: byDelivery(snapshot, images.meant) };
  const facts = Object.fromEntries(knownFacts.map((fact) => [fact, factCounts(snapshot, fact, meant, images)]));
  return {
    total: images.total,
    matching: images.meant.length,
    matchingObjects: objectsOn(snapshot, images.meant),
    class: classCounts(snapshot, images),
    split: keyed(splitCodes, histogram(countedIn(images, "split"), snapshot.split, splitCodes.length)),
    state: keyed(labelStates, histogram(countedIn(images, "state"), snapshot.state, labelStates.length)),
    delivery: deliveryCounts(snapshot, images),
    tag: tagCounts(snapshot, images),
    objects: binCounts(snapshot, images),
    ...(facts as Record<KnownFact, FactCount[]>),
  };
}
