/**
 * Features of many images, one after the other, in the memory of what compares them (core/wasm/assembly/features.ts):
 * nothing is moved there and back. A feature is named by its place, the byte at which it begins; -1 stands for none.
 */
import { firstByte, instantiate, type Memory } from "../wasm/instantiate";
import { featuresBytes } from "../wasm/features-bytes";
import { farthest, featureLength } from "./features";

/** See there what each takes. */
type Comparing = Memory & {
  addUp: (...numbers: number[]) => void;
  fromOwn: (...numbers: number[]) => void;
  fartherThanOwn: (...numbers: number[]) => void;
  fromNearest: (...numbers: number[]) => void;
};

/** So many features are looked at at once. */
const atOnce = 16_384;
const wideBytes = featureLength * 4;
/** Places are told apart from none by being above zero, in 32 bits: some 14 million objects. */
const mostBytes = 2 ** 31 - 1;

type Table = Float32Array | Uint32Array | Int32Array;
/** Where a batch lies, and what it is compared with. */
type Batch = { places: number; count: number; own: number; table: number; result: number; wide: number };

const bytesOf = (table: Table) => new Uint8Array(table.buffer, table.byteOffset, table.byteLength);

export class FeatureStore {
  private readonly comparing = instantiate<Comparing>(featuresBytes);
  private end = firstByte;
  private view = new Uint8Array(this.comparing.memory.buffer);

  /** Puts packed features behind all others and returns their place. Throws a RangeError past two thousand million bytes. */
  append(packed: Uint8Array): number {
    const start = this.end;
    const end = start + packed.length;
    if (end > mostBytes) throw new RangeError("There are more features than can be held at once.");
    if (end > this.view.length) this.reserve(Math.min(mostBytes, Math.ceil(end * 1.25)));
    this.view.set(packed, start);
    this.end = end;
    return start;
  }

  /** Makes room for so many bytes more: at once, for all that is kept is cleared through each time it grows. */
  expect(bytes: number): void {
    const end = Math.min(mostBytes, this.end + bytes);
    if (end > this.view.length) this.reserve(end);
  }

  /** All bytes, by place; good until more is put in or compared. */
  get bytes(): Uint8Array {
    return this.view;
  }

  private reserve(bytes: number): void {
    this.comparing.reserve(bytes);
    this.view = new Uint8Array(this.comparing.memory.buffer);
  }

  /** Calls `compare` for batches of features with their own numbers, beside a table; what it wrote for each. */
  private inBatches(
    { places, own }: { places: Int32Array; own: Int32Array | null },
    table: Table,
    compare: (batch: Batch) => void,
  ): { results: Float32Array; table: Uint8Array } {
    const start = Math.ceil(this.end / 16) * 16;
    const [ownAt, result, wide] = [start + 4 * atOnce, start + 8 * atOnce, start + 12 * atOnce];
    const tableAt = wide + wideBytes;
    if (tableAt + table.byteLength > this.view.length) this.reserve(tableAt + table.byteLength);
    const { buffer } = this.comparing.memory;
    this.view.set(bytesOf(table), tableAt);
    const results = new Float32Array(places.length);
    for (let at = 0; at < places.length; at += atOnce) {
      const batch = places.subarray(at, at + atOnce);
      new Int32Array(buffer, start).set(batch);
      if (own) new Int32Array(buffer, ownAt).set(own.subarray(at, at + atOnce));
      compare({ places: start, count: batch.length, own: ownAt, table: tableAt, result, wide });
      results.set(new Float32Array(buffer, result, batch.length), at);
    }
    return { results, table: this.view.subarray(tableAt, tableAt + table.byteLength) };
  }

  private distances(
    { places, own }: { places: Int32Array; own: Int32Array | null },
    table: Table,
    compare: (batch: Batch) => void,
  ): Float32Array {
    const { results } = this.inBatches({ places, own }, table, compare);
    for (let at = 0; at < results.length; at++) results[at] = (results[at] as number) / farthest;
    return results;
  }

  /** Adds features to the 128 sums of their groups, or takes them away; `own`: the group of each, -1 for none. */
  addUp(places: Int32Array, own: Int32Array, sums: Uint32Array, sign: 1 | -1): void {
    const { table } = this.inBatches({ places, own }, sums, (batch) =>
      this.comparing.addUp(batch.places, batch.count, batch.own, batch.table, sign === 1 ? 0 : 1),
    );
    bytesOf(sums).set(table);
  }

  /** How far each feature is from its own centre (0 … 1); NaN where it has none. `own`: the number of the centre, or -1. */
  fromOwn(places: Int32Array, own: Int32Array, centres: Float32Array): Float32Array {
    return this.distances({ places, own }, centres, (batch) =>
      this.comparing.fromOwn(batch.places, batch.count, batch.own, batch.table, batch.result),
    );
  }

  /**
   * How much farther the nearest other centre is from each feature than its own (0 … 1), below zero where another is
   * nearer; NaN where there is no own or no other.
   */
  fartherThanOwn(places: Int32Array, own: Int32Array, centres: Float32Array): Float32Array {
    const count = centres.length / featureLength;
    if (count < 2) return new Float32Array(places.length).fill(Number.NaN);
    return this.distances({ places, own }, centres, (batch) =>
      this.comparing.fartherThanOwn(
        ...[batch.places, batch.count, batch.own, batch.table, count, batch.result, batch.wide],
      ),
    );
  }

  /** How far each feature is from the nearest of some others (0 … 1); NaN where there is none of either. */
  fromNearest(places: Int32Array, others: Int32Array): Float32Array {
    return this.distances({ places, own: null }, others, (batch) =>
      this.comparing.fromNearest(batch.places, batch.count, batch.table, others.length, batch.result),
    );
  }
}
