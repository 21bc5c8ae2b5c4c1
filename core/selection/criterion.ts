/** What the value of a field has to be, in the terms of its kind: what all three ways of evaluating a selection share. */

/** A stretch of numbers (dates: milliseconds, UTC); an end that is open is infinite. */
export type Interval = { low: number; lowOpen: boolean; high: number; highOpen: boolean };

export type Criterion = {
  /** True where everything is meant that does not pass, the unset among it (`!=`). */
  negated: boolean;
  texts: ReadonlySet<string>;
  /** A pattern (pattern.ts) that the whole text has to match. */
  pattern: string | null;
  numbers: readonly Interval[];
  dates: readonly Interval[];
  truths: readonly boolean[];
};

export const within = (value: number, { low, lowOpen, high, highOpen }: Interval) =>
  (lowOpen ? value > low : value >= low) && (highOpen ? value < high : value <= high);
