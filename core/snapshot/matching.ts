/**
 * Which images of a snapshot match a filter: for each slot, the kinds of filter that it fails. Values are looked up by
 * their codes, so that a hundred thousand images take a few milliseconds.
 */
import { labelStates } from "../model/item";
import { objectBins, stockDimensions, type StockDimension, type StockFilter } from "../stock/filter";
import type { Column } from "../stock/column";
import { splitCodes, type Snapshot, type SnapshotDelivery } from "./snapshot";

/** The bit by which a slot that fails a kind of filter is marked; images that lie in the bin fail one of their own. */
export const bitOf = Object.fromEntries(stockDimensions.map((dimension, at) => [dimension, 1 << at])) as Record<
  StockDimension,
  number
>;
export const absent = 1 << stockDimensions.length;

/** 1 for each code that passes. */
function table(size: number, passes: (code: number) => boolean): Uint8Array {
  return Uint8Array.from({ length: size }, (_, code) => (passes(code) ? 1 : 0));
}

/** Marks the slots whose code does not pass. */
function mark(
  fails: Uint16Array,
  bit: number,
  column: Column<Uint8Array> | Column<Uint32Array>,
  passes: Uint8Array,
): void {
  const codes = column.values;
  for (let slot = 0; slot < fails.length; slot++)
    if (passes[codes[slot] as number] === 0) fails[slot] = (fails[slot] as number) | bit;
}

/** By the index of a delivery: what it says of one fact; "" where it says nothing. */
export function textsByDelivery(snapshot: Snapshot, fact: keyof Omit<SnapshotDelivery, "id" | "name">): string[] {
  const byId = new Map(snapshot.deliveries.map((delivery) => [delivery.id, delivery[fact]]));
  return snapshot.deliveryIds.map((id) => byId.get(id) ?? "");
}

function markClasses(snapshot: Snapshot, fails: Uint16Array, names: ReadonlySet<string>): void {
  const wanted = new Set(snapshot.classes.filter(({ name }) => names.has(name)).map(({ id }) => id));
  const passes = table(snapshot.classIds.length, (index) => wanted.has(snapshot.classIds[index] as number));
  const sets = table(
    snapshot.classSets.size,
    (code) => code > 0 && snapshot.classesIn(code).some((id) => wanted.has(id)),
  );
  const objects = snapshot.objectClass.values;
  const [first, count, classSet] = [snapshot.firstObject.values, snapshot.objectCount.values, snapshot.classSet.values];
  for (let slot = 0; slot < fails.length; slot++) {
    let found = sets[classSet[slot] as number] === 1;
    const end = (first[slot] as number) + (count[slot] as number);
    for (let at = first[slot] as number; !found && at < end; at++) found = passes[objects[at] as number] === 1;
    if (!found) fails[slot] = (fails[slot] as number) | bitOf.class;
  }
}

/** The day or place of an image: its own, or where its file does not tell, its delivery's. */
function markOwnOrDelivered(
  snapshot: Snapshot,
  fails: Uint16Array,
  of: "day" | "place",
  texts: ReadonlySet<string>,
): void {
  const [column, dictionary] = of === "day" ? [snapshot.day, snapshot.days] : [snapshot.place, snapshot.places];
  const chosen = table(dictionary.size, (code) => texts.has(dictionary.textOf(code)));
  const delivered = Uint8Array.from(textsByDelivery(snapshot, of), (text) => (texts.has(text) ? 1 : 0));
  for (let slot = 0; slot < fails.length; slot++) {
    const code = column.at(slot);
    const passes = code === 0 ? delivered[snapshot.delivery.at(slot)] : chosen[code];
    if (passes !== 1) fails[slot] = (fails[slot] as number) | bitOf[of];
  }
}

function markDimension(snapshot: Snapshot, fails: Uint16Array, filter: StockFilter, dimension: StockDimension): void {
  const bit = bitOf[dimension];
  switch (dimension) {
    case "class":
      return markClasses(snapshot, fails, new Set(filter.class));
    case "split": {
      const passes = table(splitCodes.length, (code) => filter.split.includes(splitCodes[code] ?? "none"));
      return mark(fails, bit, snapshot.split, passes);
    }
    case "state": {
      const passes = table(labelStates.length, (code) => filter.state.includes(labelStates[code] ?? "unlabeled"));
      return mark(fails, bit, snapshot.state, passes);
    }
    case "delivery": {
      const passes = Uint8Array.from(snapshot.deliveryIds, (id) => (filter.delivery.includes(id) ? 1 : 0));
      return mark(fails, bit, snapshot.delivery, passes);
    }
    case "tag": {
      const wanted = new Set(filter.tag);
      const passes = table(
        snapshot.tagSets.size,
        (code) => code > 0 && snapshot.tagsIn(code).some((tag) => wanted.has(tag)),
      );
      return mark(fails, bit, snapshot.tagSet, passes);
    }
    case "objects": {
      const bins = table(objectBins + 1, (bin) => filter.objects.includes(bin));
      const counts = snapshot.objectCount.values;
      for (let slot = 0; slot < fails.length; slot++)
        if (bins[Math.min(objectBins, counts[slot] as number)] === 0) fails[slot] = (fails[slot] as number) | bit;
      return;
    }
    case "source":
    case "licence":
    case "camera": {
      const wanted = new Set(filter[dimension]);
      const passes = Uint8Array.from(textsByDelivery(snapshot, dimension), (text) => (wanted.has(text) ? 1 : 0));
      return mark(fails, bit, snapshot.delivery, passes);
    }
    case "day":
    case "place":
      return markOwnOrDelivered(snapshot, fails, dimension, new Set(filter[dimension]));
    case "image": {
      const ids = new Set(filter.image);
      for (let slot = 0; slot < fails.length; slot++)
        if (!ids.has(snapshot.ids.at(slot))) fails[slot] = (fails[slot] as number) | bit;
    }
  }
}

/** For each slot the bits of what its image fails; 0 where it matches. */
export function failures(snapshot: Snapshot, filter: StockFilter): Uint16Array {
  const fails = new Uint16Array(snapshot.length);
  mark(fails, absent, snapshot.present, Uint8Array.of(0, 1));
  for (const dimension of stockDimensions)
    if (filter[dimension].length > 0) markDimension(snapshot, fails, filter, dimension);
  return fails;
}

/** Ids of the images that match, in ascending order: from the `start`th on, at most `limit`. */
export function matchingIds(snapshot: Snapshot, filter: StockFilter, start: number, limit: number): number[] {
  const fails = failures(snapshot, filter);
  const ids: number[] = [];
  let nth = 0;
  for (let slot = 0; slot < fails.length && ids.length < limit; slot++)
    if (fails[slot] === 0 && nth++ >= start) ids.push(snapshot.ids.at(slot));
  return ids;
}

/** Where an image stands among those that match: its place from 0, and its neighbours. */
export function placeAmong(
  snapshot: Snapshot,
  filter: StockFilter,
  id: number,
): { place: number; before: number | null; after: number | null } {
  const fails = failures(snapshot, filter);
  let place = 0;
  let before: number | null = null;
  for (let slot = 0; slot < fails.length; slot++) {
    if (fails[slot] !== 0) continue;
    const imageId = snapshot.ids.at(slot);
    if (imageId > id) return { place, before, after: imageId };
    if (imageId === id) continue;
    before = imageId;
    place++;
  }
  return { place, before, after: null };
}
