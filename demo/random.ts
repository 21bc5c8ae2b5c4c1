import { uniform } from "@larder/core/model/seeded";

/** A stream of numbers in [0, 1) that a seed and a name fix for good. */
export class Draws {
  private count = 0;
  constructor(
    private readonly seed: number,
    private readonly name: string,
  ) {}

  next(): number {
    return uniform("demo", this.seed, this.name, this.count++);
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }

  /** A whole number from `low` to `high`, both included. */
  whole(low: number, high: number): number {
    return Math.floor(this.between(low, high + 1));
  }

  chance(probability: number): boolean {
    return this.next() < probability;
  }

  /** One of `entries`, by weight. */
  pick<T>(entries: readonly (readonly [T, number])[]): T {
    const total = entries.reduce((sum, [, weight]) => sum + weight, 0);
    let at = this.next() * total;
    for (const [entry, weight] of entries) {
      at -= weight;
      if (at < 0) return entry;
    }
    return (entries[entries.length - 1] as readonly [T, number])[0];
  }
}
