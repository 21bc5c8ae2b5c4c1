export type Numbers = Uint8Array | Uint16Array | Uint32Array | Int32Array | Float32Array | Float64Array;
type Maker<T extends Numbers> = { new (length: number): T; readonly BYTES_PER_ELEMENT: number };

/** A typed array that grows as it is filled. */
export class Column<T extends Numbers> {
  values: T;
  length = 0;

  constructor(
    private readonly make: Maker<T>,
    capacity = 64,
  ) {
    this.values = new make(capacity);
  }

  push(value: number): void {
    if (this.length === this.values.length) this.grow(this.length + 1);
    this.values[this.length++] = value;
  }

  /** Appends the first `count` of `values`. */
  pushAll(values: ArrayLike<number>, count: number): void {
    if (this.length + count > this.values.length) this.grow(this.length + count);
    if (ArrayBuffer.isView(values)) this.values.set((values as Numbers).subarray(0, count), this.length);
    else for (let n = 0; n < count; n++) this.values[this.length + n] = values[n] as number;
    this.length += count;
  }

  private grow(least: number): void {
    // Doubling while small, by half once it is large: pages that nothing was written to take no memory.
    const next = Math.ceil(this.length * (this.length < 100_000 ? 2 : 1.5));
    const grown = new this.make(Math.max(64, least, next));
    grown.set(this.values.subarray(0, this.length));
    this.values = grown;
  }

  /** Forgets what lies past the first `length` values. */
  truncate(length: number): void {
    this.length = Math.min(this.length, length);
  }

  /** The values from `start` to `end`, as a plain array. */
  slice(start: number, end: number): number[] {
    const { values } = this;
    const last = Math.min(end, this.length);
    const copy = new Array<number>(Math.max(0, last - start));
    // Array.from goes through an iterator, value by value, which takes several times as long.
    for (let n = start; n < last; n++) copy[n - start] = values[n] as number;
    return copy;
  }

  /** What was put in, without the room that is left; good until more is. */
  get used(): T {
    return this.values.subarray(0, this.length) as T;
  }

  at(index: number): number {
    return this.values[index] as number;
  }

  set(index: number, value: number): void {
    this.values[index] = value;
  }

  /** The values in the order that `places` gives, each value's new place. */
  reorder(places: Uint32Array): void {
    const moved = new this.make(this.length);
    for (let from = 0; from < this.length; from++) moved[places[from] as number] = this.values[from] as number;
    this.values = moved;
  }

  /** A column of the values at some places, in their order. */
  gather(places: ArrayLike<number>): Column<T> {
    const gathered = new Column(this.make, places.length);
    for (let to = 0; to < places.length; to++) gathered.values[to] = this.values[places[to] as number] as number;
    gathered.length = places.length;
    return gathered;
  }

  get bytes(): number {
    return this.values.length * this.make.BYTES_PER_ELEMENT;
  }
}
