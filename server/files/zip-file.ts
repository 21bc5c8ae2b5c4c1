/** A zip opened for random access, in promises. */
import { Failure } from "@larder/core/model/failure";
import { close as closeFile, open as openFile, read as readFile } from "node:fs";
import { stat } from "node:fs/promises";
import { Readable } from "node:stream";
import { promisify } from "node:util";
import { inflateRaw } from "node:zlib";
import yauzl from "yauzl";

/** Where an entry's bytes lie and what they unpack to. */
export type PackedEntry = {
  compressionMethod: number;
  compressedSize: number;
  uncompressedSize: number;
  relativeOffsetOfLocalHeader: number;
};
/** An entry as the archive's directory lists it. */
export type ListedEntry = PackedEntry & {
  fileName: string;
  generalPurposeBitFlag: number;
  externalFileAttributes: number;
};

const [stored, deflated] = [0, 8];
const blockSize = 64 * 1024;
const chunkSize = 1 << 20;
/** Entries up to this size are unpacked in one go. */
const smallEntry = 1 << 20;

/**
 * A file whose directory is read in blocks: a read of the disk for each of its entries would take longer than all
 * else.
 */
class BlockReader extends yauzl.RandomAccessReader {
  /** Of the class it extends, whose declaration leaves them out. */
  declare ref: () => void;
  declare unref: () => void;
  private block = Buffer.alloc(0);
  private blockAt = 0;

  constructor(private readonly descriptor: number) {
    super();
  }

  override _readStreamForRange(start: number, end: number): Readable {
    // A stream of the language's own would close the descriptor when it is destroyed.
    return Readable.from(this.chunks(start, end), { objectMode: false, highWaterMark: chunkSize });
  }

  private async *chunks(start: number, end: number): AsyncIterable<Buffer> {
    for (let at = start; at < end; at += chunkSize) yield await this.bytes(at, Math.min(chunkSize, end - at));
  }

  override read(
    buffer: Buffer,
    offset: number,
    length: number,
    position: number,
    callback: (error: Error | null, bytesRead?: number) => void,
  ): void {
    if (length > blockSize) return readFile(this.descriptor, buffer, offset, length, position, callback);
    const copied = () => this.block.copy(buffer, offset, position - this.blockAt, position - this.blockAt + length);
    if (position >= this.blockAt && position + length <= this.blockAt + this.block.length)
      return callback(null, copied());
    const block = Buffer.allocUnsafeSlow(blockSize);
    readFile(this.descriptor, block, 0, blockSize, position, (error, bytesRead) => {
      if (error) return callback(error);
      this.block = block.subarray(0, bytesRead);
      this.blockAt = position;
      callback(null, copied());
    });
  }

  /** Bytes of the file in a buffer of their own. */
  async bytes(position: number, length: number): Promise<Buffer> {
    const buffer = Buffer.allocUnsafeSlow(length);
    this.ref();
    try {
      for (let done = 0; done < length;) {
        const { bytesRead } = await promisify(readFile)(this.descriptor, buffer, done, length - done, position + done);
        if (bytesRead === 0) throw new Error("unexpected end of file");
        done += bytesRead;
      }
    } finally {
      this.unref();
    }
    return buffer;
  }

  override close(callback: (error: Error | null) => void): void {
    closeFile(this.descriptor, callback);
  }
}

function notAZip(error: Error): Failure {
  if (/end of central directory/i.test(error.message)) {
    return new Failure(
      "not-a-zip",
      "It is not a zip, or it was cut off before its end: the directory that closes a zip is not there. Send it again, or pack it anew.",
    );
  }
  return new Failure("archive-damaged", `The archive is damaged: ${error.message}.`);
}

const utf8 = new TextDecoder("utf-8");

/**
 * The entry with its name as text. The package's own checks of names would end the whole archive at the first bad one;
 * ours leave that one out.
 */
function listed(entry: yauzl.Entry): ListedEntry {
  const {
    compressionMethod,
    compressedSize,
    uncompressedSize,
    relativeOffsetOfLocalHeader,
    generalPurposeBitFlag,
    externalFileAttributes,
  } = entry;
  const raw = entry.fileName as unknown as Buffer;
  const text = utf8.decode(raw);
  // Without the flag most packers write UTF-8 all the same; what is not valid UTF-8 is read as Latin-1.
  const fileName = (generalPurposeBitFlag & 0x800) !== 0 || !text.includes("\uFFFD") ? text : raw.toString("latin1");
  return {
    fileName,
    compressionMethod,
    compressedSize,
    uncompressedSize,
    relativeOffsetOfLocalHeader,
    generalPurposeBitFlag,
    externalFileAttributes,
  };
}

export class ZipFile {
  private constructor(
    private readonly zip: yauzl.ZipFile,
    private readonly reader: BlockReader,
  ) {}

  /** Throws a Failure that says in a sentence what is wrong where it is no zip. */
  static async open(file: string): Promise<ZipFile> {
    const { size } = await stat(file);
    const descriptor = await promisify(openFile)(file, "r");
    const reader = new BlockReader(descriptor);
    return new Promise((resolve, reject) => {
      yauzl.fromRandomAccessReader(
        reader,
        size,
        { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: false },
        (error, zip) => {
          if (!error && zip) return resolve(new ZipFile(zip, reader));
          closeFile(descriptor, () => reject(notAZip(error ?? new Error("unknown"))));
        },
      );
    });
  }

  /** The archive's directory, in its order. */
  async *entries(): AsyncIterable<ListedEntry> {
    const { zip } = this;
    const waiting: (yauzl.Entry | Error | null)[] = [];
    let wake: () => void = () => undefined;
    const put = (value: yauzl.Entry | Error | null) => {
      waiting.push(value);
      wake();
    };
    zip.on("entry", put);
    zip.on("end", () => put(null));
    zip.on("error", put);
    for (;;) {
      if (waiting.length === 0) {
        const woken = new Promise<void>((resume) => (wake = resume));
        zip.readEntry();
        if (waiting.length === 0) await woken;
      }
      const next = waiting.shift();
      if (next === null || next === undefined) return;
      if (next instanceof Error) throw notAZip(next);
      yield listed(next);
    }
  }

  private dataStart(entry: PackedEntry): Promise<number> {
    if (entry.compressionMethod !== stored && entry.compressionMethod !== deflated)
      throw new Failure(
        "archive-damaged",
        `The archive is packed by a method (${entry.compressionMethod}) that Larder does not read; pack it anew with the usual one.`,
      );
    return new Promise((resolve, reject) => {
      this.zip.readLocalFileHeader(entry as yauzl.Entry, { minimal: true }, (error, header) =>
        error ? reject(notAZip(error)) : resolve(header.fileDataStart),
      );
    });
  }

  /** An entry's bytes, unpacked, as they come. */
  async stream(entry: PackedEntry): Promise<Readable> {
    const start = await this.dataStart(entry);
    return new Promise((resolve, reject) => {
      const { compressedSize, uncompressedSize, compressionMethod } = entry;
      this.zip.openReadStreamLowLevel(
        start,
        compressedSize,
        0,
        compressedSize,
        compressionMethod === deflated,
        uncompressedSize,
        (error, stream) => (error ? reject(notAZip(error)) : resolve(stream)),
      );
    });
  }

  /** Why an entry cannot be unpacked to what the directory says of it; null where it can. */
  async troubleOf(entry: PackedEntry): Promise<string | null> {
    try {
      if (entry.uncompressedSize <= smallEntry) await this.read(entry);
      else for await (const _ of await this.stream(entry));
      return null;
    } catch (error) {
      return error instanceof Failure ? error.message : notAZip(error as Error).message;
    }
  }

  /** An entry's bytes, unpacked, whole; never more of them than the directory announces. */
  async read(entry: PackedEntry): Promise<Uint8Array> {
    const { compressedSize, uncompressedSize, compressionMethod } = entry;
    const start = await this.dataStart(entry);
    try {
      const packed = await this.reader.bytes(start, compressedSize);
      if (compressionMethod === stored) return packed;
      const bytes = await promisify<Uint8Array, { maxOutputLength: number }, Buffer>(inflateRaw)(packed, {
        maxOutputLength: Math.max(1, uncompressedSize),
      });
      if (bytes.length !== uncompressedSize)
        throw new Error(`an entry unpacks to ${bytes.length} bytes and should to ${uncompressedSize}`);
      return bytes;
    } catch (error) {
      throw notAZip(error as Error);
    }
  }

  close(): void {
    this.zip.close();
  }
}
