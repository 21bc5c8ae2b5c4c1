/** A file written a line at a time; what goes wrong with the disk is thrown where the next line is written. */
import { createWriteStream, type WriteStream } from "node:fs";
import { mkdir } from "node:fs/promises";
import { once } from "node:events";
import path from "node:path";
import { finished } from "node:stream/promises";

export class LineFile {
  private failure: Error | null = null;

  private constructor(private readonly out: WriteStream) {
    out.on("error", (error) => (this.failure = error));
  }

  /** Begins the file anew, its folder made where it is not there. */
  static async create(file: string): Promise<LineFile> {
    await mkdir(path.dirname(path.resolve(file)), { recursive: true });
    const out = createWriteStream(file);
    await once(out, "open");
    return new LineFile(out);
  }

  /** Adds a line; waits where the disk does not keep up. */
  async add(text: string): Promise<void> {
    if (this.failure) throw this.failure;
    if (!this.out.write(`${text}\n`)) await once(this.out, "drain");
  }

  async end(): Promise<void> {
    if (this.failure) throw this.failure;
    this.out.end();
    await finished(this.out);
  }
}
