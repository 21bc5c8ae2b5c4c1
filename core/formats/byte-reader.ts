import { concatenate } from "./concatenate";

/** Takes a stream apart by byte counts, holding no more than what is asked for and one chunk. */
export class ByteReader {
  /** Bytes taken so far. */
  position = 0;
  private chunks: Uint8Array[] = [];
  private buffered = 0;
  private readonly source: AsyncIterator<Uint8Array>;

  constructor(stream: AsyncIterable<Uint8Array>) {
    this.source = stream[Symbol.asyncIterator]();
  }

  /** The next `length` bytes; fewer only at the end. */
  async take(length: number): Promise<Uint8Array> {
    while (this.buffered < length) {
      const next = await this.source.next();
      if (next.done) break;
      // The chunk's memory may be reused by its stream.
      this.chunks.push(next.value.slice());
      this.buffered += next.value.length;
    }
    const joined = this.chunks.length === 1 && this.chunks[0] ? this.chunks[0] : concatenate(this.chunks);
    const bytes = joined.subarray(0, length);
    const rest = joined.subarray(bytes.length);
    this.chunks = rest.length > 0 ? [rest] : [];
    this.buffered = rest.length;
    this.position += bytes.length;
    return bytes;
  }

  async close(): Promise<void> {
    await this.source.return?.();
  }
}
