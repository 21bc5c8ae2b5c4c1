import { isImagePath, type FileSink, type Spool } from "@larder/core/model/file-tree";
import { createHash, randomUUID } from "node:crypto";
import { createReadStream, createWriteStream } from "node:fs";
import { mkdir, rm } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { finished, pipeline } from "node:stream/promises";
import yazl from "yazl";
import { DiskSpool } from "./disk-spool";

/** One moment for every entry, so that the same content gives the same archive. */
const entryTime = new Date("2000-01-01T00:00:00Z");

/** Gives a stream out once and forgets it: the archive keeps what it was given for an entry until its end. */
function handOver(stream: Readable): (take: (error: unknown, stream: Readable) => void) => void {
  let waiting: Readable | null = stream;
  return (take) => {
    const handed = waiting as Readable;
    waiting = null;
    take(null, handed);
  };
}

/** Writes a zip as its files come, one at a time; pictures are stored, texts compressed. */
export class ZipSink implements FileSink {
  private readonly zip = new yazl.ZipFile();
  private readonly written: Promise<void>;
  private readonly hash = createHash("sha256");
  private bytes = 0;
  private failure: unknown = null;

  constructor(private readonly file: string) {
    const out = this.zip.outputStream as Readable;
    out.on("data", (chunk: Buffer) => {
      this.hash.update(chunk);
      this.bytes += chunk.length;
    });
    // Room for several pictures, so that the disk gets them together.
    this.written = pipeline(out, createWriteStream(file, { highWaterMark: 4 << 20 })).catch((error: unknown) => {
      this.failure = error;
    });
  }

  async write(name: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    if (this.failure) throw this.failure;
    const whole = typeof content === "string" ? Buffer.from(content) : content instanceof Uint8Array ? content : null;
    const readable = whole
      ? Readable.from(whole.length > 0 ? [whole] : [])
      : Readable.from(content as AsyncIterable<Uint8Array>);
    const options = {
      mtime: entryTime,
      compress: !isImagePath(name),
      forceDosTimestamp: true,
      ...(whole ? { size: whole.length } : {}),
    };
    this.zip.addReadStreamLazy(name, options, handOver(readable));
    // Waiting until the entry is consumed keeps memory at one entry; a failed disk ends the wait too.
    await Promise.race([finished(readable), this.written]);
    if (this.failure) throw this.failure;
  }

  private get spools(): string {
    return `${this.file}.spools`;
  }

  async spool(): Promise<Spool> {
    await mkdir(this.spools, { recursive: true });
    return new DiskSpool(path.join(this.spools, randomUUID()), async (spooled, name) => {
      await this.write(name, createReadStream(spooled, { highWaterMark: 1 << 20 }) as AsyncIterable<Uint8Array>);
      await rm(spooled);
    });
  }

  /** Ends the archive; returns its hash and length, counted as it was written. */
  async finish(): Promise<{ sha256: string; bytes: number }> {
    this.zip.end();
    await this.written;
    await rm(this.spools, { recursive: true, force: true });
    if (this.failure) throw this.failure;
    return { sha256: this.hash.digest("hex"), bytes: this.bytes };
  }

  async discard(): Promise<void> {
    (this.zip.outputStream as Readable).destroy();
    await this.written;
    await rm(this.file, { force: true });
    await rm(this.spools, { recursive: true, force: true });
  }
}
