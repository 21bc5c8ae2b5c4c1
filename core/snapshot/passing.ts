/** The images of a snapshot that a selection means, and those that one histogram's choice alone keeps from being meant. */
import type { Selection } from "../selection/chosen";
import { dimensions, type Dimension } from "../selection/dimensions";
import { absent, bitOf, failures } from "./matching";
import type { Snapshot } from "./snapshot";

/** Slots, ascending. */
export type Passing = {
  meant: Uint32Array;
  /** Those that fail the choice of one histogram and nothing else; a histogram counts them with those that are meant. */
  but: Partial<Record<Dimension, Uint32Array>>;
  /** How many images are in stock. */
  total: number;
};

const anyChoice = dimensions.reduce((bits, dimension) => bits | bitOf[dimension], 0);

/** Those of some slots that fail exactly `bits`. */
function failingOnly(slots: Uint32Array, fails: Uint16Array, bits: number): Uint32Array {
  const failing = new Uint32Array(slots.length);
  let count = 0;
  for (let nth = 0; nth < slots.length; nth++) {
    const slot = slots[nth] as number;
    if (fails[slot] === bits) failing[count++] = slot;
  }
  return failing.subarray(0, count);
}

export function passing(snapshot: Snapshot, selection: Selection): Passing {
  const fails = failures(snapshot, selection);
  const [choices, bin] = [anyChoice, absent];
  const [meant, nearly] = [new Uint32Array(fails.length), new Uint32Array(fails.length)];
  let [total, meantCount, nearlyCount, met] = [0, 0, 0, 0];
  for (let slot = 0; slot < fails.length; slot++) {
    const bits = fails[slot] as number;
    if (bits === 0) meant[meantCount++] = slot;
    // A power of two: one choice and no other.
    else if ((bits & (bits - 1)) === 0 && (bits & choices) !== 0) {
      nearly[nearlyCount++] = slot;
      met |= bits;
    }
    if ((bits & bin) === 0) total++;
  }
  const failing = nearly.subarray(0, nearlyCount);
  const failed = dimensions.filter((dimension) => (met & bitOf[dimension]) !== 0);
  const only = (name: Dimension) => (met === bitOf[name] ? failing : failingOnly(failing, fails, bitOf[name]));
  return {
    meant: meant.subarray(0, meantCount),
    but: Object.fromEntries(failed.map((name) => [name, only(name)])),
    total,
  };
}
