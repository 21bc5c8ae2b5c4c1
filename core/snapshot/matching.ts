/** Which images of a snapshot match a filter: for each slot, the kinds of filter that it fails. */
import { objectBins, stockDimensions, type StockDimension, type StockFilter } from "../stock/filter";
import { labelStates } from "../model/item";
import { splitCodes, type Snapshot, type SnapshotDelivery } from "./snapshot";

/** The bit by which a slot that fails a kind of filter is marked; images that lie in the bin fail everything. */
export const bitOf = Object.fromEntries(stockDimensions.map((dimension, at) => [dimension, 1 << at])) as Record<
  StockDimension,
  number
>;
export const absent = 1 << stockDimensions.length;

const codesOf = (names: readonly string[], values: readonly string[]) =>
  new Set(values.map((value) => names.indexOf(value)));

/** By slot: the day or place of its image, its own or its delivery's. */
export function textsBySlot(snapshot: Snapshot, of: "day" | "place"): (slot: number) => string {
  const deliveries = new Map(snapshot.deliveries.map((delivery) => [delivery.id, delivery[of]]));
  const [column, dictionary] = of === "day" ? [snapshot.day, snapshot.days] : [snapshot.place, snapshot.places];
  return (slot) => {
    const code = column.at(slot);
    return code !== 0 ? dictionary.textOf(code) : (deliveries.get(snapshot.delivery.at(slot)) ?? "");
  };
}

type DeliveryFact = "source" | "licence" | "camera";

/** By delivery id: what it says of one fact. */
export function factsByDelivery(snapshot: Snapshot, fact: DeliveryFact): Map<number, string> {
  return new Map(snapshot.deliveries.map((delivery: SnapshotDelivery) => [delivery.id, delivery[fact]]));
}

/** For one kind of filter: whether the image in a slot passes. */
function test(snapshot: Snapshot, filter: StockFilter, dimension: StockDimension): (slot: number) => boolean {
  switch (dimension) {
    case "class": {
      const names = new Set(filter.class);
      const wanted = new Set(snapshot.classes.filter(({ name }) => names.has(name)).map(({ id }) => id));
      const byIndex = Uint8Array.from(snapshot.classIds, (id) => (wanted.has(id) ? 1 : 0));
      const { objectClass, firstObject, objectCount } = snapshot;
      return (slot) => {
        const end = firstObject.at(slot) + objectCount.at(slot);
        for (let at = firstObject.at(slot); at < end; at++) if (byIndex[objectClass.at(at)]) return true;
        return snapshot.classSet.at(slot) !== 0 && snapshot.classesOf(slot).some((id) => wanted.has(id));
      };
    }
    case "split": {
      const codes = codesOf(splitCodes, filter.split);
      return (slot) => codes.has(snapshot.split.at(slot));
    }
    case "state": {
      const codes = codesOf(labelStates, filter.state);
      return (slot) => codes.has(snapshot.state.at(slot));
    }
    case "delivery": {
      const ids = new Set(filter.delivery);
      return (slot) => ids.has(snapshot.delivery.at(slot));
    }
    case "tag": {
      const wanted = new Set(filter.tag);
      return (slot) => snapshot.tagSet.at(slot) !== 0 && snapshot.tagsOf(slot).some((tag) => wanted.has(tag));
    }
    case "objects": {
      const bins = new Set(filter.objects);
      return (slot) => bins.has(Math.min(objectBins, snapshot.objectCount.at(slot)));
    }
    case "source":
    case "licence":
    case "camera": {
      const wanted = new Set(filter[dimension]);
      const facts = factsByDelivery(snapshot, dimension);
      return (slot) => wanted.has(facts.get(snapshot.delivery.at(slot)) ?? "");
    }
    case "day":
    case "place": {
      const wanted = new Set(filter[dimension]);
      const textOf = textsBySlot(snapshot, dimension);
      return (slot) => wanted.has(textOf(slot));
    }
    case "image": {
      const ids = new Set(filter.image);
      return (slot) => ids.has(snapshot.ids.at(slot));
    }
  }
}

/** For each slot the bits of what its image fails; 0 where it matches. */
export function failures(snapshot: Snapshot, filter: StockFilter): Uint16Array {
  const fails = new Uint16Array(snapshot.length);
  const tests = stockDimensions
    .filter((dimension) => filter[dimension].length > 0)
    .map((dimension) => ({ bit: bitOf[dimension], passes: test(snapshot, filter, dimension) }));
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) {
      fails[slot] = absent;
      continue;
    }
    let bits = 0;
    for (const { bit, passes } of tests) if (!passes(slot)) bits |= bit;
    fails[slot] = bits;
  }
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
    const own = snapshot.ids.at(slot);
    if (own > id) return { place, before, after: own };
    if (own === id) continue;
    before = own;
    place++;
  }
  return { place, before, after: null };
}
