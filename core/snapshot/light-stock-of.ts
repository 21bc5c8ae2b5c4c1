/** The light stock that plans, checks and class counts run over, out of a snapshot. */
import { labelStates, splitNames } from "../model/item";
import { LightStock } from "../stock/light-stock";
import type { Snapshot } from "./snapshot";

/** Slots of the images in stock, ordered by their hashes. */
export function slotsByHash(snapshot: Snapshot): Uint32Array {
  const slots = new Uint32Array(snapshot.length);
  const prefixes = new Float64Array(snapshot.length);
  let count = 0;
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    slots[count++] = slot;
    prefixes[slot] = snapshot.hashPrefix(slot);
  }
  return slots.subarray(0, count).sort((a, b) => {
    const difference = (prefixes[a] as number) - (prefixes[b] as number);
    return difference !== 0 ? difference : snapshot.hashOf(a) < snapshot.hashOf(b) ? -1 : 1;
  });
}

/** The images in stock, ordered by hash, with their objects counted by class. */
export function lightStockOf(snapshot: Snapshot, slots = slotsByHash(snapshot)): LightStock {
  const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
  const stock = new LightStock(snapshot.classIds.map((id) => names.get(id) ?? ""));
  const counts = new Uint32Array(snapshot.classIds.length);
  const whole = new Uint8Array(snapshot.classIds.length);
  const met: number[] = [];
  for (const slot of slots) {
    const split = snapshot.split.at(slot);
    stock.addImage(
      snapshot.hashOf(slot),
      snapshot.deliveryIds[snapshot.delivery.at(slot)] ?? 0,
      split === 0 ? null : (splitNames[split - 1] ?? null),
      labelStates[snapshot.state.at(slot)] ?? "unlabeled",
      snapshot.pinned.at(slot) === 1,
    );
    met.length = 0;
    const first = snapshot.firstObject.at(slot);
    const last = first + snapshot.objectCount.at(slot);
    for (let at = first; at < last; at++) {
      const index = snapshot.objectClass.at(at);
      if (counts[index] === 0) met.push(index);
      counts[index] = (counts[index] as number) + 1;
    }
    if (snapshot.classSet.at(slot) > 0)
      for (const id of snapshot.classesIn(snapshot.classSet.at(slot))) {
        const index = snapshot.classIndex(id);
        if (counts[index] === 0 && whole[index] === 0) met.push(index);
        whole[index] = 1;
      }
    for (const index of met) {
      stock.addLabel(index, counts[index] as number, whole[index] === 1);
      counts[index] = 0;
      whole[index] = 0;
    }
  }
  return stock;
}
