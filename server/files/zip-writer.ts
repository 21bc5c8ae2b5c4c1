/**
 * The zip writer without what makes it slow for many entries. It searches the list of all entries whenever one ends, and
 * keeps every entry's bytes until the archive's end; here each entry leaves the list, and its bytes the memory, once it
 * is written. All are put back before the end, for the archive's directory.
 */
import { once } from "node:events";
import { Readable, type PassThrough } from "node:stream";
import { finished } from "node:stream/promises";
import yazl from "yazl";

/** What the writer keeps of an entry: how far it came, and what writes its content. */
type Entry = { state: number; doFileDataPump: unknown };

/** The state of an entry whose content is in the archive. */
const written = 3;

/** The writer takes no more than this at once of content that it is given whole. */
const mostAtOnce = 0x3fffffff;

/** As many bytes may wait for the disk. */
const waitingBytes = 4 << 20;

/** Resolves once an entry's content is in the archive; the writer itself tells nobody. */
function whenWritten(entry: Entry): Promise<void> {
  return new Promise((resolve) => {
    let { state } = entry;
    Object.defineProperty(entry, "state", {
      configurable: true,
      enumerable: true,
      get: () => state,
      set(next: number) {
        state = next;
        if (state >= written) resolve();
      },
    });
  });
}

export type EntryOptions = { mtime: Date; compress: boolean; forceDosTimestamp: boolean };

/** Gives a stream out once and forgets it. */
function handOver(stream: Readable): (take: (error: unknown, stream: Readable) => void) => void {
  let waiting: Readable | null = stream;
  return (take) => {
    const handed = waiting as Readable;
    waiting = null;
    take(null, handed);
  };
}

/** Writes entries in the order in which they are added. */
export class ZipWriter {
  private readonly zip = new yazl.ZipFile() as yazl.ZipFile & { entries: Entry[] };
  private readonly directory: Entry[] = [];

  /** The archive's bytes as they come. */
  get output(): PassThrough {
    return this.zip.outputStream as PassThrough;
  }

  /** Content whose length and checksum are known beforehand and stand before it in the archive. */
  async addBytes(name: string, bytes: Uint8Array, options: EntryOptions): Promise<void> {
    if (bytes.length > mostAtOnce) return this.addStream(name, Readable.from([bytes]), options);
    this.zip.addBuffer(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length), name, options);
    await this.afterEntry();
    const { output } = this;
    if (output.writableNeedDrain && output.writableLength + output.readableLength > waitingBytes)
      await once(output, "drain");
  }

  /** Content of any length, whose length and checksum follow it. */
  async addStream(name: string, content: Readable, options: EntryOptions): Promise<void> {
    this.zip.addReadStreamLazy(name, options, handOver(content));
    await Promise.all([finished(content), this.afterEntry()]);
  }

  private async afterEntry(): Promise<void> {
    const { entries } = this.zip;
    const entry = entries.at(-1) as Entry;
    if (entry.state < written) await whenWritten(entry);
    entry.doFileDataPump = null;
    entries.splice(entries.indexOf(entry), 1);
    this.directory.push(entry);
  }

  /** Writes the archive's directory and ends its output. */
  end(): void {
    this.zip.entries.push(...this.directory.splice(0));
    this.zip.end();
  }
}
