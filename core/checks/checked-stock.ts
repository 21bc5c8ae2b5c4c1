import type { Learned } from "../snapshot/learned";
import type { Snapshot } from "../snapshot/snapshot";
import type { CheckedStock } from "./check";
import { tallyClasses } from "./tally";

/** The images in some slots of a snapshot, ascending, as checks take them: their classes counted over these alone. */
export function checkedStockOf(
  snapshot: Snapshot,
  slots: Uint32Array,
  learned: Learned | null,
  measures = learned,
): CheckedStock {
  return { snapshot, slots, tallies: tallyClasses(snapshot, slots), learned, measures };
}
