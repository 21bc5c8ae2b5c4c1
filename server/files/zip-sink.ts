import { isImagePath, type FileSink, type Spool } from "@larder/core/model/file-tree";
import { randomUUID } from "node:crypto";
import { createReadStream, createWriteStream } from "node:fs";
import { mkdir, rm } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { DiskSpool } from "./disk-spool";
import { ZipWriter } from "./zip-writer";

/** One moment for every entry, so that the same content gives the same archive. */
const entryTime = new Date("2000-01-01T00:00:00Z");

/** Shorter texts gain less than an entry's own headers take, and there may be one beside each picture. */
const worthCompressing = 1024;

/** Writes a zip as its files come, one at a time; pictures and short texts are stored, others compressed. */
export class ZipSink implements FileSink {
  private readonly zip = new ZipWriter();
  private readonly written: Promise<void>;
  private bytes = 0;
  private failure: unknown = null;

  constructor(private readonly file: string) {
    const { output } = this.zip;
    output.on("data", (chunk: Buffer) => (this.bytes += chunk.length));
    // Room for several pictures, so that the disk gets them together.
    this.written = pipeline(output, createWriteStream(file, { highWaterMark: 4 << 20 })).catch((error: unknown) => {
      this.failure = error;
    });
  }

  async write(name: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    if (this.failure) throw this.failure;
    const whole = typeof content === "string" ? Buffer.from(content) : content instanceof Uint8Array ? content : null;
    const compress = !isImagePath(name) && (whole === null || whole.length >= worthCompressing);
    const options = { mtime: entryTime, compress, forceDosTimestamp: true };
    const entry = whole
      ? this.zip.addBytes(name, whole, options)
      : this.zip.addStream(name, Readable.from(content as AsyncIterable<Uint8Array>), options);
    // Waiting until the entry is in the archive keeps memory at one entry; a failed disk ends the wait too.
    await Promise.race([entry, this.written]);
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

  /** Ends the archive; returns its length, counted as it was written. */
  async finish(): Promise<number> {
    this.zip.end();
    await this.written;
    await rm(this.spools, { recursive: true, force: true });
    if (this.failure) throw this.failure;
    return this.bytes;
  }

  async discard(): Promise<void> {
    this.zip.output.destroy();
    await this.written;
    await rm(this.file, { force: true });
    await rm(this.spools, { recursive: true, force: true });
  }
}
