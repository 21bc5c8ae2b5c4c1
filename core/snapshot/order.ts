/** The orders in which the images of a stock can be looked at. */
import { z } from "zod";
import { stableOrder } from "../columns/stable-order";
import { onceARevision } from "./once-a-revision";
import type { Snapshot } from "./snapshot";

export const orderKeys = [
  "arrival",
  "name",
  "taken",
  "delivery",
  "objects",
  "confidence",
  "random",
  "like",
  "unlike",
] as const;

/** As many images as an order of likeness takes for its example. */
export const mostLiked = 50;

export const orderSchema = z.object({
  by: z.enum(orderKeys).default("arrival"),
  down: z.boolean().default(false),
  /** For the random order: the same seed deals the same order. */
  seed: z
    .number()
    .int()
    .min(0)
    .max(2 ** 31 - 1)
    .default(1),
  /** For the order of likeness: images that others are like, by id. */
  like: z.array(z.number().int()).max(mostLiked).default([]),
});
export type Order = z.infer<typeof orderSchema>;

export const arrivalOrder: Order = orderSchema.parse({});

/** A number that looks random and is the same for the same id and seed (T. Mueller's integer hash). */
function scattered(id: number, seed: number): number {
  let bits = (id ^ Math.imul(seed, 0x9e3779b1)) >>> 0;
  bits = Math.imul((bits >>> 16) ^ bits, 0x45d9f3b);
  bits = Math.imul((bits >>> 16) ^ bits, 0x45d9f3b);
  return ((bits >>> 16) ^ bits) >>> 0;
}

/** The least sure of an image's objects; NaN where nobody said how sure. */
function lowestConfidence(snapshot: Snapshot, slot: number): number {
  const first = snapshot.firstObject.at(slot);
  let lowest = Number.NaN;
  for (let at = first; at < first + snapshot.objectCount.at(slot); at++) {
    const confidence = snapshot.confidence.at(at);
    if (!(confidence >= lowest)) lowest = Number.isNaN(confidence) ? lowest : confidence;
  }
  return lowest;
}

/** Texts as numbers in their order, so that slots are compared by numbers. */
function ranks(texts: readonly string[]): Float64Array {
  const order = Uint32Array.from(texts, (_, at) => at).sort((a, b) => {
    const [one, other] = [texts[a] as string, texts[b] as string];
    return one < other ? -1 : one > other ? 1 : a - b;
  });
  const rank = new Float64Array(texts.length);
  let last = -1;
  order.forEach((at, place) => {
    if (place === 0 || texts[at] !== texts[order[place - 1] as number]) last = place;
    rank[at] = last;
  });
  return rank;
}

const nameRanksOf = new WeakMap<Snapshot, { namings: number; ranks: Float64Array }>();

/** The ranks of images by their names, worked out once for as long as names stay: few acts change any. */
function nameRanks(snapshot: Snapshot): Float64Array {
  const { namings, names } = snapshot;
  const known = nameRanksOf.get(snapshot);
  if (known?.namings === namings) return known.ranks;
  const anew = { namings, ranks: ranks(names) };
  nameRanksOf.set(snapshot, anew);
  return anew.ranks;
}

/** Whether an order needs the features of the stock. */
export const needsLearned = ({ by }: Order) => by === "like" || by === "unlike";

function keysOf(snapshot: Snapshot, { by, seed, like }: Order): (slot: number) => number {
  switch (by) {
    case "arrival":
      return (slot) => slot;
    case "name": {
      const rank = nameRanks(snapshot);
      return (slot) => rank[slot] as number;
    }
    case "taken":
      return (slot) => snapshot.taken.at(slot);
    case "delivery": {
      const names = new Map(snapshot.deliveries.map(({ id, name }) => [id, name]));
      const rank = ranks(snapshot.deliveryIds.map((id) => names.get(id) ?? ""));
      return (slot) => rank[snapshot.delivery.at(slot)] as number;
    }
    case "objects":
      return (slot) => snapshot.objectCount.at(slot);
    case "confidence":
      return (slot) => lowestConfidence(snapshot, slot);
    case "random":
      return (slot) => scattered(snapshot.ids.at(slot), seed);
    case "like": {
      const from = snapshot.learned?.imagesFrom(snapshot, like);
      return (slot) => from?.[slot] ?? Number.NaN;
    }
    case "unlike": {
      const unlike = snapshot.learned?.imagesUnlikeTheirClass(snapshot);
      return (slot) => unlike?.[slot] ?? Number.NaN;
    }
  }
}

const ordersOf = onceARevision(() => new Map<string, Uint32Array>());
/** An order of 100,000 images is 400 kB; a few are in use at a time. */
const mostKept = 8;

/**
 * Every slot in an order, images in the bin among them; ties stand in the order of arrival, and what has no value (no
 * date, no confidence) at the end either way. Worked out once a revision.
 */
export function orderedSlots(snapshot: Snapshot, order: Order): Uint32Array {
  const orders = ordersOf(snapshot);
  const name = `${order.by} ${order.down} ${order.by === "random" ? order.seed : ""} ${order.like.join(" ")} ${needsLearned(order) ? (snapshot.learned?.upTo ?? 0) : ""}`;
  const there = orders.get(name);
  if (there) return there;
  const keyOf = keysOf(snapshot, order);
  const keys = new Float64Array(snapshot.length);
  for (let slot = 0; slot < keys.length; slot++) keys[slot] = keyOf(slot);
  const slots = stableOrder(keys, order.down);
  if (orders.size >= mostKept) orders.delete(orders.keys().next().value as string);
  orders.set(name, slots);
  return slots;
}
