import { Failure } from "@larder/core/model/failure";
import type { Readable } from "node:stream";
import yauzl from "yauzl";

export type Entry = yauzl.Entry;
export type ZipFile = { entries: () => AsyncIterable<Entry>; openReadStream: (entry: Entry) => Promise<Readable>; close: () => void };

function notAZip(error: Error): Failure {
  if (/end of central directory/i.test(error.message)) {
    return new Failure("not-a-zip", "It is not a zip, or it was cut off before its end: the directory that closes a zip is not there. Send it again, or pack it anew.");
  }
  return new Failure("archive-damaged", `The archive is damaged: ${error.message}.`);
}

/** Opens a zip for random access; Failures say in a sentence what is wrong with it. */
export function openPromise(file: string): Promise<ZipFile> {
  return new Promise((resolve, reject) => {
    yauzl.open(file, { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: true, strictFileNames: false }, (error, zip) => {
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
              // A name that climbs out is refused by the reader itself, before our own check sees it.
              if (/invalid relative path|absolute path/.test(next.message)) throw new Failure("entry-unsafe", `The archive holds an entry that would leave its folder (${next.message}). Nothing of it was taken.`);
              throw notAZip(next);
            }
            yield next;
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
