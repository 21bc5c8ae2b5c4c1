/** Classes counted over a stock. */
import type { Split } from "../model/item";
import { splitCodes, type Snapshot } from "../snapshot/snapshot";

export type ClassTally = { name: string; images: number; objects: number; bySplit: Record<Split | "none", number> };

/** Per class: images that hold it, objects (an image-level class counts as one), and objects a split. */
export function tallyClasses(snapshot: Snapshot, slots: Uint32Array): ClassTally[] {
  const { split, classSet, firstObject, objectCount, objectClass } = snapshot;
  const indexes = snapshot.classes.map(({ id }) => snapshot.classIndex(id));
  const width = snapshot.classIds.length;
  const objects = new Float64Array(width * splitCodes.length);
  const images = new Uint32Array(width);
  const lastSlot = new Int32Array(width).fill(-1);
  const count = (index: number, slot: number, code: number) => {
    const at = index * splitCodes.length + code;
    objects[at] = (objects[at] as number) + 1;
    if (lastSlot[index] === slot) return;
    lastSlot[index] = slot;
    images[index] = (images[index] as number) + 1;
  };
  for (const slot of slots) {
    const code = split.at(slot);
    const first = firstObject.at(slot);
    const last = first + objectCount.at(slot);
    for (let at = first; at < last; at++) count(objectClass.at(at), slot, code);
    const set = classSet.at(slot);
    if (set > 0) for (const id of snapshot.classesIn(set)) count(snapshot.classIndex(id), slot, code);
  }
  return snapshot.classes.map(({ name }, n) => {
    const index = indexes[n] as number;
    const [none = 0, train = 0, val = 0, test = 0] = objects.subarray(
      index * splitCodes.length,
      (index + 1) * splitCodes.length,
    );
    return {
      ...{ name, images: images[index] as number, objects: none + train + val + test },
      bySplit: { train, val, test, none },
    };
  });
}
