import { Failure } from "@larder/core/model/failure";
import type { Readable } from "node:stream";
import yauzl from "yauzl";

export type Entry = Omit<yauzl.Entry, "fileName"> & { fileName: string };
export type ZipFile = { entries: () => AsyncIterable<Entry>; openReadStream: (entry: Entry) => Promise<Readable>; close: () => void };

function notAZip(error: Error): Failure {
  if (/end of central directory/i.test(error.message)) {
    return new Failure("not-a-zip", "It is not a zip, or it was cut off before its end: the directory that closes a zip is not there. Send it again, or pack it anew.");
  }
  return new Failure("archive-damaged", `The archive is damaged: ${error.message}.`);
}

/** The entry with its name as text. The reader's own checks of names would end the whole archive at the first bad one; ours leave that one out. */
function named(entry: yauzl.Entry): Entry {
  const raw = entry.fileName as unknown as Buffer;
  const utf8 = (entry.generalPurposeBitFlag & 0x800) !== 0;
  const text = new TextDecoder("utf-8").decode(raw);
  // Without the flag most packers write UTF-8 all the same; what is not valid UTF-8 is read as Latin-1.
  // Only what opening it again needs is kept: an archive may have hundreds of thousands of entries.
  const { compressionMethod, compressedSize, uncompressedSize, relativeOffsetOfLocalHeader, generalPurposeBitFlag, externalFileAttributes, crc32 } = entry;
  const kept = { compressionMethod, compressedSize, uncompressedSize, relativeOffsetOfLocalHeader, generalPurposeBitFlag, externalFileAttributes, crc32 };
  const own = Object.assign(Object.create(Object.getPrototypeOf(entry) as object) as yauzl.Entry, kept);
  return Object.assign(own, { fileName: utf8 || !text.includes("\uFFFD") ? text : raw.toString("latin1") });
}

/** Opens a zip for random access; Failures say in a sentence what is wrong with it. */
export function openPromise(file: string): Promise<ZipFile> {
  return new Promise((resolve, reject) => {
    yauzl.open(file, { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: false }, (error, zip) => {
      if (error || !zip) return reject(notAZip(error ?? new Error("unknown")));
      resolve({
        async *entries() {
          const waiting: (Entry | Error | null)[] = [];
          let wake: () => void = () => undefined;
          const put = (value: Entry | Error | null) => {
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
            if (next instanceof Error) {
              throw notAZip(next);
            }
            yield named(next);
          }
        },
        openReadStream: (entry) =>
          new Promise((opened, failed) => {
            zip.openReadStream(entry, (problem, stream) => (problem || !stream ? failed(notAZip(problem ?? new Error("no stream"))) : opened(stream)));
          }),
        close: () => zip.close(),
      });
    });
  });
}
