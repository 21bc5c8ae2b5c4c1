/** The objects or images that make up a group of cut-outs, and what each is ordered by. */
import type { Selection } from "../selection/chosen";
import type { CutoutGroup, CutoutOrder } from "./cutout-group";
import { imagesByClass, objectsByValue, valuesByCode } from "./grouped-features";
import type { Comparison, Learned } from "./learned";
import { failures } from "./matching";
import type { Snapshot } from "./snapshot";

/** Objects by their places in the snapshot, -1 for a whole image; and the slots of their images. */
export type Members = { slots: Uint32Array; objects: Int32Array };

/** What objects are told apart by for a group: a code of each, by its place, and which codes mean that it is in. */
type Belonging = { codes: ArrayLike<number>; isMeant: Uint8Array };

function belongingTo(snapshot: Snapshot, group: Exclude<CutoutGroup, { of: "image-class" }>): Belonging {
  if (group.of === "class") {
    const isMeant = Uint8Array.from(snapshot.classIds, (id) => Number(id === group.id));
    return { codes: snapshot.objectClass.used, isMeant };
  }
  const { values, byCode } = valuesByCode(snapshot, group.name);
  const wanted = values.get(group.value);
  return { codes: snapshot.attributes.used, isMeant: Uint8Array.from(byCode, (value) => Number(value === wanted)) };
}

/** The images of those that are meant that have a class of their own. */
function imagesOf(snapshot: Snapshot, fails: Uint16Array, id: number): Members {
  const slots: number[] = [];
  for (let slot = 0; slot < fails.length; slot++) {
    const set = fails[slot] === 0 ? snapshot.classSet.at(slot) : 0;
    if (set !== 0 && snapshot.classesIn(set).includes(id)) slots.push(slot);
  }
  return { slots: Uint32Array.from(slots), objects: new Int32Array(slots.length).fill(-1) };
}

/** The members of a group among images that are meant, in the order of their arrival. */
export function membersOf(snapshot: Snapshot, selection: Selection, group: CutoutGroup): Members {
  const fails = failures(snapshot, selection);
  if (group.of === "image-class") return imagesOf(snapshot, fails, group.id);
  const { codes, isMeant } = belongingTo(snapshot, group);
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  // Room for all objects, of which pages that nothing is written to take none.
  const [slots, objects] = [new Uint32Array(codes.length), new Int32Array(codes.length)];
  let length = 0;
  for (let slot = 0; slot < fails.length; slot++) {
    if (fails[slot] !== 0) continue;
    const first = firsts[slot] as number;
    const end = first + (counts[slot] as number);
    for (let at = first; at < end; at++) {
      // Written first and counted if it is meant: a million branches that go either way take longer.
      slots[length] = slot;
      objects[length] = at;
      length += isMeant[codes[at] as number] as number;
    }
  }
  return { slots: slots.slice(0, length), objects: objects.slice(0, length) };
}

function looksOfImages(learned: Learned, snapshot: Snapshot, { slots }: Members, id: number, against: Comparison) {
  const placeOf = (slot: number) => learned.imagePlace(snapshot, slot);
  const members = {
    places: Int32Array.from(slots, placeOf),
    groups: new Int32Array(slots.length).fill(snapshot.classIds.indexOf(id)),
  };
  return learned.fromGroups(members, imagesByClass(snapshot, placeOf), against);
}

/** Values are compared within a class: a dark loaf with other loaves, not with dark rolls. */
function looksOfValues(learned: Learned, snapshot: Snapshot, { objects }: Members, name: string, against: Comparison) {
  const keys = new Float32Array(objects.length).fill(Number.NaN);
  const nth = new Map(Array.from(objects, (at, n) => [at, n]));
  for (const ofClass of objectsByValue(snapshot, name, learned.objectFeatures(snapshot).objects).values()) {
    const distances = learned.fromGroups(ofClass, ofClass, against);
    ofClass.objects.forEach((at, n) => {
      const member = nth.get(at);
      if (member !== undefined) keys[member] = distances[n] as number;
    });
  }
  return keys;
}

function looksOf(snapshot: Snapshot, members: Members, group: CutoutGroup, against: Comparison): ArrayLike<number> {
  const { learned } = snapshot;
  if (!learned) return new Float32Array(members.slots.length).fill(Number.NaN);
  switch (group.of) {
    case "class":
      return against === "own"
        ? learned.objectsFromCentre(snapshot, members.objects)
        : learned.objectsFromOthers(snapshot, members.objects);
    case "image-class":
      return looksOfImages(learned, snapshot, members, group.id, against);
    case "attribute":
      return looksOfValues(learned, snapshot, members, group.name, against);
  }
}

/** What each member is ordered by; NaN where that is not known. */
export function keysOf(snapshot: Snapshot, members: Members, group: CutoutGroup, by: CutoutOrder): ArrayLike<number> {
  const { slots, objects } = members;
  const ofEach = (key: (slot: number, object: number) => number) => {
    const keys = new Float64Array(slots.length);
    for (let n = 0; n < keys.length; n++) keys[n] = key(slots[n] as number, objects[n] as number);
    return keys;
  };
  switch (by) {
    case "size":
      return ofEach((slot, at) =>
        at < 0
          ? snapshot.width.at(slot) * snapshot.height.at(slot)
          : snapshot.boxWidth.at(at) * snapshot.boxHeight.at(at),
      );
    case "outlying":
      return looksOf(snapshot, members, group, "own");
    case "other":
      return looksOf(snapshot, members, group, "other");
    case "confidence":
      return ofEach((_, at) => (at < 0 ? Number.NaN : snapshot.confidence.at(at)));
    case "delivery": {
      const order = new Map(snapshot.deliveries.map(({ id }, nth) => [id, nth]));
      return ofEach((slot) => order.get(snapshot.deliveryIds[snapshot.delivery.at(slot)] as number) ?? Number.NaN);
    }
  }
}
