/** Which images of a snapshot a selection means: for each slot, the histograms whose choice it fails, as bits. */
import { bindSelection, type BoundSelection, type KnownAttributes } from "../selection/bind";
import type { Selection } from "../selection/chosen";
import { dimensionOf, dimensions, type Dimension } from "../selection/dimensions";
import { parseSelection } from "../selection/parse";
import { printSelection } from "../selection/print";
import { conjuncts } from "../selection/tree";
import { onceARevision } from "./once-a-revision";
import { arrivalOrder, orderedSlots, type Order } from "./order";
import { selectionMask } from "./selection-mask";
import type { Snapshot } from "./snapshot";

/** The bit by which a slot that fails a histogram's choice is marked. */
export const bitOf = Object.fromEntries(dimensions.map((dimension, at) => [dimension, 1 << at])) as Record<
  Dimension,
  number
>;
/** Images that fail any other part of the selection, and those that lie in the bin. */
const otherwise = 1 << dimensions.length;
export const absent = 1 << (dimensions.length + 1);

/** What names may stand for in a selection of this stock. */
export function attributesOf(snapshot: Snapshot): KnownAttributes {
  const names = snapshot.attributeNames();
  return { image: names, object: names };
}

type Part = { bit: number; text: string; tree: BoundSelection };

const masksOf = onceARevision(() => new Map<string, Uint8Array>());
/** A mask of 100,000 images is 100 kB; while somebody looks at a selection, its parts are asked for again and again. */
const mostKept = 32;

/** The mask of a part of a selection, worked out once a revision. */
function maskOf(snapshot: Snapshot, { text, tree }: Part): Uint8Array {
  const masks = masksOf(snapshot);
  const mask = masks.get(text) ?? selectionMask(snapshot, tree);
  // What was asked for last goes last.
  masks.delete(text);
  masks.set(text, mask);
  if (masks.size > mostKept) masks.delete(masks.keys().next().value as string);
  return mask;
}

/** The parts of a selection, each with the histogram that it stands for. Throws a SelectionError where it is none. */
function partsOf(snapshot: Snapshot, where: string): Part[] {
  const attributes = attributesOf(snapshot);
  return conjuncts(parseSelection(where)).map((part) => {
    const dimension = dimensionOf(part);
    const bit = dimension === null ? otherwise : bitOf[dimension];
    return { bit, text: printSelection(part), tree: bindSelection(part, attributes) };
  });
}

function markPicked(snapshot: Snapshot, fails: Uint16Array, { only, except }: Selection): void {
  const [wanted, unwanted] = [only && new Set(only), new Set(except)];
  if (!wanted && unwanted.size === 0) return;
  for (let slot = 0; slot < fails.length; slot++) {
    const id = snapshot.ids.at(slot);
    if ((wanted && !wanted.has(id)) || unwanted.has(id)) fails[slot] = (fails[slot] as number) | otherwise;
  }
}

/** For each slot the bits of what its image fails; 0 where it is meant. */
export function failures(snapshot: Snapshot, selection: Selection): Uint16Array {
  const fails = new Uint16Array(snapshot.length);
  const present = snapshot.present.values;
  for (let slot = 0; slot < fails.length; slot++) if (present[slot] === 0) fails[slot] = absent;
  markPicked(snapshot, fails, selection);
  for (const part of partsOf(snapshot, selection.where)) {
    const mask = maskOf(snapshot, part);
    const { bit } = part;
    // Reckoned with, not branched on: which images pass is as good as chance.
    for (let slot = 0; slot < fails.length; slot++)
      fails[slot] = (fails[slot] as number) | (bit * (1 - (mask[slot] as number)));
  }
  return fails;
}

/** How many images are meant. */
export function countMatching(snapshot: Snapshot, selection: Selection): number {
  const fails = failures(snapshot, selection);
  let count = 0;
  for (let slot = 0; slot < fails.length; slot++) count += Number(fails[slot] === 0);
  return count;
}

/** Ids of the images that are meant, in an order: from the `start`th on, at most `limit`. */
export function matchingIds(
  snapshot: Snapshot,
  selection: Selection,
  start: number,
  limit: number,
  order: Order = arrivalOrder,
): number[] {
  const fails = failures(snapshot, selection);
  const ids: number[] = [];
  let nth = 0;
  const slots = orderedSlots(snapshot, order);
  for (let place = 0; place < slots.length && ids.length < limit; place++) {
    const slot = slots[place] as number;
    if (fails[slot] === 0 && nth++ >= start) ids.push(snapshot.ids.at(slot));
  }
  return ids;
}

/** Ids of the images in stock that go by each of some names; names that none goes by are not among them. */
export function namedImages(snapshot: Snapshot, names: readonly string[]): Map<string, number[]> {
  const wanted = new Set(names);
  const found = new Map<string, number[]>();
  for (let slot = 0; slot < snapshot.length; slot++) {
    const name = snapshot.names[slot] as string;
    if (!wanted.has(name) || snapshot.present.at(slot) === 0) continue;
    const ids = found.get(name);
    if (ids) ids.push(snapshot.ids.at(slot));
    else found.set(name, [snapshot.ids.at(slot)]);
  }
  return found;
}

/**
 * Where an image stands among those that are meant: its place from 0, and its neighbours. One that is not meant itself
 * has the place it would have.
 */
export function placeAmong(
  snapshot: Snapshot,
  selection: Selection,
  id: number,
  order: Order = arrivalOrder,
): { place: number; before: number | null; after: number | null } {
  const fails = failures(snapshot, selection);
  const own = snapshot.slotOf(id);
  let place = 0;
  let before: number | null = null;
  let passed = false;
  for (const slot of orderedSlots(snapshot, order)) {
    if (slot === own) passed = true;
    else if (fails[slot] === 0) {
      const imageId = snapshot.ids.at(slot);
      if (passed) return { place, before, after: imageId };
      before = imageId;
      place++;
    }
  }
  return { place, before, after: null };
}
