/** Features by what they are compared as: images by their classes, objects of a class by the values of an attribute. */
import type { AttributeValue } from "../model/item";
import { ownEntry } from "../model/own-entry";
import type { Snapshot } from "./snapshot";

/** Where features begin, -1 for none, and the group of each. */
export type GroupedFeatures = { places: Int32Array; groups: Int32Array };

/** The images in stock that have classes, once for each, by the index of the class; and the slot of each. */
export function imagesByClass(
  snapshot: Snapshot,
  placeOf: (slot: number) => number,
): GroupedFeatures & { slots: Int32Array } {
  const [slots, places, groups] = [[] as number[], [] as number[], [] as number[]];
  const [sets, present] = [snapshot.classSet.used, snapshot.present.used];
  for (let slot = 0; slot < sets.length; slot++) {
    const set = sets[slot] as number;
    if (set === 0 || present[slot] === 0) continue;
    for (const id of snapshot.classesIn(set)) {
      slots.push(slot);
      places.push(placeOf(slot));
      groups.push(snapshot.classIndex(id));
    }
  }
  return { slots: Int32Array.from(slots), places: Int32Array.from(places), groups: Int32Array.from(groups) };
}

/** A value of an attribute as the name of a group; null where it is none: unset, or a list. */
export const groupOfValue = (value: AttributeValue | null): string | null =>
  value === null || Array.isArray(value) ? null : String(value);

/** The value of an attribute that each object has, by codes of attributes: its number in `values`, -1 for none. */
export function valuesByCode(snapshot: Snapshot, name: string): { values: Map<string, number>; byCode: Int32Array } {
  const values = new Map<string, number>();
  const byCode = Int32Array.from({ length: snapshot.attributeTexts.size }, (_, code) => {
    const value = code === 0 ? null : groupOfValue(ownEntry(snapshot.attributesIn(code), name));
    if (value === null) return -1;
    const known = values.get(value) ?? values.size;
    values.set(value, known);
    return known;
  });
  return { values, byCode };
}

/** Objects in stock that have a value of an attribute, by the index of their class: their values and features. */
export function objectsByValue(
  snapshot: Snapshot,
  name: string,
  places: Int32Array,
): Map<number, GroupedFeatures & { objects: Int32Array }> {
  const { byCode } = valuesByCode(snapshot, name);
  const ofClass = new Map<number, number[]>();
  const [classes, codes] = [snapshot.objectClass.used, snapshot.attributes.used];
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    const first = snapshot.firstObject.at(slot);
    for (let at = first; at < first + snapshot.objectCount.at(slot); at++) {
      if ((byCode[codes[at] as number] as number) < 0) continue;
      const index = classes[at] as number;
      const objects = ofClass.get(index) ?? [];
      ofClass.set(index, objects);
      objects.push(at);
    }
  }
  return new Map(
    Array.from(ofClass, ([index, list]) => {
      const objects = Int32Array.from(list);
      const groups = objects.map((at) => byCode[codes[at] as number] as number);
      return [index, { objects, groups, places: objects.map((at) => places[at] as number) }];
    }),
  );
}
