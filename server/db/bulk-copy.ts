import { once } from "node:events";
import type { Writable } from "node:stream";
import type pg from "pg";
import { from } from "pg-copy-streams";
import { storableJson, storableText } from "./storable";

type Cell = string | number | boolean | null | object;

function cellText(cell: Cell): string {
  if (cell === null) return "\\N";
  const text = typeof cell === "object" ? storableJson(JSON.stringify(cell)) : storableText(String(cell));
  return text.replace(
    /[\\\t\n\r]/g,
    (sign) => ({ "\\": "\\\\", "\t": "\\t", "\n": "\\n", "\r": "\\r" })[sign] as string,
  );
}

/** Writes rows through COPY, row by row, without holding them; commit with `end`. Objects become JSON. */
export class BulkCopy {
  private buffer = "";
  private failure: Error | null = null;

  private constructor(private readonly stream: Writable) {
    stream.on("error", (error) => (this.failure = error));
  }

  static open(client: pg.PoolClient, table: string, columns: readonly string[]): BulkCopy {
    return new BulkCopy(client.query(from(`COPY ${table} (${columns.join(", ")}) FROM STDIN`)));
  }

  async add(cells: readonly Cell[]): Promise<void> {
    this.buffer += `${cells.map(cellText).join("\t")}\n`;
    if (this.failure) throw this.failure;
    if (this.buffer.length < 1 << 18) return;
    const chunk = this.buffer;
    this.buffer = "";
    if (!this.stream.write(chunk)) await once(this.stream, "drain");
  }

  /** Ends the COPY so that nothing of it stays and its connection can be used again. */
  async abort(): Promise<void> {
    if (this.stream.destroyed || this.stream.writableFinished) return;
    const closed = once(this.stream, "close").catch(() => undefined);
    this.stream.destroy();
    await closed;
  }

  async end(): Promise<void> {
    if (this.failure) throw this.failure;
    this.stream.end(this.buffer);
    await once(this.stream, "finish");
  }
}
