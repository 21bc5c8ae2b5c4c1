/**
 * Rows of a query through COPY in PostgreSQL's binary format (documentation, COPY, "Binary Format"): a million of them
 * without making an object of each.
 */
import type pg from "pg";
import { to } from "pg-copy-streams";

const headerBytes = 19;

/** One row: its fields by number. What is null is 0, NaN or null. */
export class BinaryRow {
  view: DataView = new DataView(new ArrayBuffer(0));
  bytes: Buffer = Buffer.alloc(0);
  readonly starts: number[] = [];
  readonly lengths: number[] = [];

  isNull(field: number): boolean {
    return (this.lengths[field] as number) < 0;
  }
  int8(field: number): number {
    if (this.isNull(field)) return 0;
    const start = this.starts[field] as number;
    // Two halves: whole numbers of up to 53 bits without a BigInt for each.
    return this.view.getInt32(start) * 2 ** 32 + this.view.getUint32(start + 4);
  }
  int4(field: number): number {
    return this.isNull(field) ? 0 : this.view.getInt32(this.starts[field] as number);
  }
  float4(field: number): number {
    return this.isNull(field) ? Number.NaN : this.view.getFloat32(this.starts[field] as number);
  }
  bool(field: number): boolean {
    return !this.isNull(field) && this.view.getUint8(this.starts[field] as number) === 1;
  }
  text(field: number): string | null {
    if (this.isNull(field)) return null;
    const start = this.starts[field] as number;
    return this.bytes.toString("utf8", start, start + (this.lengths[field] as number));
  }
  raw(field: number): Uint8Array {
    const start = this.starts[field] as number;
    return this.bytes.subarray(start, start + Math.max(0, this.lengths[field] as number));
  }
}

/** Calls `take` for each row of a query without parameters; the row is only good during the call. */
export async function copyOut(client: pg.ClientBase, query: string, take: (row: BinaryRow) => void): Promise<void> {
  const stream = client.query(to(`copy (${query}) to stdout (format binary)`));
  const row = new BinaryRow();
  let rest: Buffer = Buffer.alloc(0);
  let headed = false;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    const bytes = rest.length === 0 ? chunk : Buffer.concat([rest, chunk]);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    [row.bytes, row.view] = [bytes, view];
    let at = 0;
    if (!headed) {
      if (bytes.length < headerBytes) {
        rest = bytes;
        continue;
      }
      at = headerBytes;
      headed = true;
    }
    for (;;) {
      const end = readRow(view, at, row);
      if (end === null) break;
      take(row);
      at = end;
    }
    rest = bytes.subarray(at);
  }
}

/** Finds the fields of the row at `at` and returns where the next begins; null where the row is not whole yet. */
function readRow(view: DataView, at: number, row: BinaryRow): number | null {
  const { byteLength } = view;
  if (at + 2 > byteLength) return null;
  const fields = view.getInt16(at);
  if (fields < 0) return null;
  let place = at + 2;
  for (let field = 0; field < fields; field++) {
    if (place + 4 > byteLength) return null;
    const length = view.getInt32(place);
    row.starts[field] = place + 4;
    row.lengths[field] = length;
    place += 4 + Math.max(0, length);
    if (place > byteLength) return null;
  }
  return place;
}
