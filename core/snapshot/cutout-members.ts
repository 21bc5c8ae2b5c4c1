/** The objects or images that make up a group of cut-outs, and what each is ordered by. */
import { Column } from "../columns/column";
import type { Selection } from "../selection/chosen";
import type { CutoutGroup, CutoutOrder } from "./cutout-group";
import { imagesByClass, objectsByValue, valuesByCode } from "./grouped-features";
import type { Comparison, Learned } from "./learned";
import { failures } from "./matching";
import type { Snapshot } from "./snapshot";

/** Objects by their places in the snapshot, -1 for a whole image; and the slots of their images. */
export type Members = { slots: Uint32Array; objects: Int32Array };

/** Whether an object, by its place, is in a group. */
function objectsOf(snapshot: Snapshot, group: CutoutGroup): (at: number) => boolean {
  if (group.of === "class") {
    const [classes, index] = [snapshot.objectClass.used, snapshot.classIds.indexOf(group.id)];
    return (at) => classes[at] === index;
  }
  if (group.of === "image-class") return () => false;
  const { values, byCode } = valuesByCode(snapshot, group.name);
  const [codes, wanted] = [snapshot.attributes.used, values.get(group.value)];
  return (at) => byCode[codes[at] as number] === wanted;
}

/** The members of a group among images that are meant, in the order of their arrival. */
export function membersOf(snapshot: Snapshot, selection: Selection, group: CutoutGroup): Members {
  const fails = failures(snapshot, selection);
  const [slots, objects] = [new Column(Uint32Array), new Column(Int32Array)];
  const isMember = objectsOf(snapshot, group);
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  for (let slot = 0; slot < fails.length; slot++) {
    if (fails[slot] !== 0) continue;
    if (group.of === "image-class") {
      const set = snapshot.classSet.at(slot);
      if (set === 0 || !snapshot.classesIn(set).includes(group.id)) continue;
      slots.push(slot);
      objects.push(-1);
      continue;
    }
    const first = firsts[slot] as number;
    const end = first + (counts[slot] as number);
    for (let at = first; at < end; at++)
      if (isMember(at)) {
        slots.push(slot);
        objects.push(at);
      }
  }
  return { slots: slots.used, objects: objects.used };
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
