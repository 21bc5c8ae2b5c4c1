import { createWriteStream } from "node:fs";
import { rename } from "node:fs/promises";
import { pipeline } from "node:stream/promises";
import yazl from "yazl";
import type { DemoFile } from "./shifts";

const written = new Date("2026-11-02T06:00:00Z");

/** Writes the files into a zip; the same files give the same bytes. */
export async function writeArchive(path: string, files: Iterable<DemoFile> | AsyncIterable<DemoFile>): Promise<void> {
  const zip = new yazl.ZipFile();
  const done = pipeline(zip.outputStream, createWriteStream(`${path}.part`));
  for await (const file of files) {
    const bytes = await file.bytes();
    zip.addBuffer(Buffer.from(bytes), file.path, {
      mtime: written,
      compress: !file.path.endsWith(".jpg"),
      forceDosTimestamp: true,
    });
  }
  zip.end();
  await done;
  await rename(`${path}.part`, path);
}
