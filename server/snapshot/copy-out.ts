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

  showBytes(bytes: Buffer): void {
    this.bytes = bytes;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  }

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

/** What came and was not read yet, in memory that is used again: a buffer for each piece would be much to clear away. */
class Pieces {
  private end = 0;

  constructor(private room: Buffer) {}

  /** All that is there, with a piece more; good until the next is put in. */
  with(piece: Buffer): Buffer {
    const end = this.end + piece.length;
    if (end > this.room.length) {
      const larger = Buffer.allocUnsafeSlow(Math.ceil(1.5 * end));
      this.room.copy(larger, 0, 0, this.end);
      this.room = larger;
    }
    piece.copy(this.room, this.end);
    this.end = end;
    return this.room.subarray(0, end);
  }

  /** Forgets what comes before a place. */
  forget(before: number): void {
    this.room.copyWithin(0, before, this.end);
    this.end -= before;
  }
}

/** What a query without parameters gives, piece by piece as it comes. */
export const copyPieces = (client: pg.ClientBase, query: string): AsyncIterable<Buffer> =>
  client.query(to(`copy (${query}) to stdout (format binary)`));

/** Calls `take` for each row of a query without parameters; the row is only good during the call. */
export async function copyOut(client: pg.ClientBase, query: string, take: (row: BinaryRow) => void): Promise<void> {
  const row = new BinaryRow();
  const pieces = new Pieces(Buffer.allocUnsafeSlow(256 * 1024));
  let headed = false;
  for await (const piece of copyPieces(client, query)) {
    const bytes = pieces.with(piece);
    row.showBytes(bytes);
    if (!headed && bytes.length < headerBytes) continue;
    let at = headed ? 0 : headerBytes;
    headed = true;
    for (;;) {
      const end = readRow(row, at);
      if (end === null) break;
      take(row);
      at = end;
    }
    pieces.forget(at);
  }
}

/** All that a query without parameters gives, as it comes, for `rowsOfBytes`; `expected`: about how many bytes. */
export async function copyBytes(client: pg.ClientBase, query: string, expected: number): Promise<Uint8Array> {
  const pieces = new Pieces(Buffer.allocUnsafeSlow(expected));
  let all: Buffer = Buffer.alloc(0);
  for await (const piece of copyPieces(client, query)) all = pieces.with(piece);
  return new Uint8Array(all.buffer, all.byteOffset, all.length);
}

/** The rows in what `copyBytes` gave; each is only good until the next. */
export function* rowsOfBytes(bytes: Uint8Array): Generator<BinaryRow> {
  const row = new BinaryRow();
  row.showBytes(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length));
  for (let at = readRow(row, headerBytes); at !== null; at = readRow(row, at)) yield row;
}

/** Finds the fields of the row at `at` and returns where the next begins; null where the row is not whole yet. */
function readRow(row: BinaryRow, at: number): number | null {
  const { view } = row;
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
