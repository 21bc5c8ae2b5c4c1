/** Columns of numbers that grow by doubling: millions of rows in a few flat arrays instead of as many objects. */

type Numbers = Float64Array | Uint32Array | Uint8Array;

export class Column<T extends Numbers> {
  length = 0;
  constructor(private values: T) {}

  static doubles(): Column<Float64Array> {
    return new Column(new Float64Array(1024));
  }

  static integers(): Column<Uint32Array> {
    return new Column(new Uint32Array(1024));
  }

  push(value: number): void {
    if (this.length === this.values.length) this.grow(this.length + 1);
    this.values[this.length++] = value;
  }

  /** Appends the first `count` of `values`. */
  pushAll(values: ArrayLike<number>, count: number): void {
    if (this.length + count > this.values.length) this.grow(this.length + count);
    for (let i = 0; i < count; i++) this.values[this.length + i] = values[i] as number;
    this.length += count;
  }

  private grow(least: number): void {
    const larger = new (this.values.constructor as new (length: number) => T)(Math.max(least, this.values.length * 2));
    larger.set(this.values);
    this.values = larger;
  }

  /** Forgets what lies past the first `length` values. */
  truncate(length: number): void {
    this.length = Math.min(this.length, length);
  }

  at(position: number): number {
    return this.values[position] as number;
  }

  /** The values from `start` to `end`, as a plain array. */
  slice(start: number, end: number): number[] {
    const { values } = this;
    const count = Math.max(0, end - start);
    const out = new Array<number>(count);
    for (let i = 0; i < count; i++) out[i] = values[start + i] as number;
    return out;
  }
}
