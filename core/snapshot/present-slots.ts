import type { Snapshot } from "./snapshot";

/** Slots of the images in stock, ascending. */
export function presentSlots({ present, length }: Snapshot): Uint32Array {
  const slots = new Uint32Array(length);
  let count = 0;
  for (let slot = 0; slot < length; slot++) if (present.at(slot) === 1) slots[count++] = slot;
  return slots.subarray(0, count);
}
