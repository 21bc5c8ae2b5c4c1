/**
 * Columns tested as a whole: 1 for each entry that passes. Each is one plain loop over typed arrays, so that a million
 * entries take a few milliseconds.
 */
import type { BoundTest } from "../selection/bind";
import type { Interval } from "../selection/criterion";
import { criterionTest, type Held } from "../selection/predicate";
import type { Column, Numbers } from "../columns/column";
import { nextAbove } from "./next-above";

export type Mask = Uint8Array;
export type Codes = Column<Uint8Array> | Column<Uint32Array>;

/** Says of the values that a field holds whether a test passes; of none, what it says of the unset. */
export function heldTest(test: BoundTest<string>): (values: Held) => boolean {
  if (test.kind === "known") return (values) => values.length > 0 === test.set;
  return criterionTest(test.criterion);
}

/** Tests each of `size` codes once and gives each of `length` entries what its code came to. */
export function maskByCode(length: number, column: Codes, size: number, passes: (code: number) => boolean): Mask {
  const table = Uint8Array.from({ length: size }, (_, code) => (passes(code) ? 1 : 0));
  const codes = column.values;
  const mask = new Uint8Array(length);
  for (let at = 0; at < length; at++) mask[at] = table[codes[at] as number] as number;
  return mask;
}

/** Of two kinds of arrays alone: a loop that has met more of them reads each number slowly. */
type Floats = Float32Array | Float64Array;

function markWithin(values: Floats, { low, lowOpen, high, highOpen }: Interval, mask: Mask): void {
  // With both ends closed a loop compares twice a number, and asks nothing else.
  const least = lowOpen ? nextAbove(low) : low;
  const most = highOpen ? -nextAbove(-high) : high;
  // Reckoned with, not branched on: which way a number goes is as good as chance, and takes twice as long to guess.
  for (let at = 0; at < values.length; at++) {
    const value = values[at] as number;
    mask[at] = (mask[at] as number) | (Number(value >= least) & Number(value <= most));
  }
}

/** The marks of a mask four at a time, and the place of those that are left over at its end. */
const inFours = (mask: Mask): { fours: Uint32Array; rest: number } => ({
  fours: new Uint32Array(mask.buffer, mask.byteOffset, mask.length >> 2),
  rest: mask.length & ~3,
});

/** Turns every mark around. */
export function invert(mask: Mask): Mask {
  const { fours, rest } = inFours(mask);
  for (let at = 0; at < fours.length; at++) fours[at] = (fours[at] as number) ^ 0x01010101;
  for (let at = rest; at < mask.length; at++) mask[at] = (mask[at] as number) ^ 1;
  return mask;
}

/** Marks in `mask` what `other`, of the same length, marks as well. */
function keepBoth(mask: Mask, other: Mask): void {
  const [{ fours, rest }, { fours: others }] = [inFours(mask), inFours(other)];
  for (let at = 0; at < fours.length; at++) fours[at] = (fours[at] as number) & (others[at] as number);
  for (let at = rest; at < mask.length; at++) mask[at] = (mask[at] as number) & (other[at] as number);
}

/** Marks in `mask` what `other`, of the same length, marks, too. */
function addMarks(mask: Mask, other: Mask): void {
  const [{ fours, rest }, { fours: others }] = [inFours(mask), inFours(other)];
  for (let at = 0; at < fours.length; at++) fours[at] = (fours[at] as number) | (others[at] as number);
  for (let at = rest; at < mask.length; at++) mask[at] = (mask[at] as number) | (other[at] as number);
}

/** Tests each number; NaN stands for the unset. */
export function numbersMask(given: Numbers, test: BoundTest<string>): Mask {
  const values = given instanceof Float32Array || given instanceof Float64Array ? given : new Float64Array(given);
  const mask = new Uint8Array(values.length);
  if (test.kind === "known") {
    for (let at = 0; at < values.length; at++) if (!Number.isNaN(values[at])) mask[at] = 1;
    return test.set ? mask : invert(mask);
  }
  const { numbers, dates, negated } = test.criterion;
  for (const interval of [...numbers, ...dates]) markWithin(values, interval, mask);
  return negated ? invert(mask) : mask;
}

/** Marks what all of the masks mark, or what any of them does, in the first of them. */
export function combine(kind: "and" | "or", masks: readonly Mask[], length: number): Mask {
  const [first = new Uint8Array(length).fill(kind === "and" ? 1 : 0), ...others] = masks;
  for (const other of others)
    if (kind === "and") keepBoth(first, other);
    else addMarks(first, other);
  return first;
}
