/** Reads manifests of any number, a line at a time. */
import { readHeader, readLine, type ManifestHeader, type ReadLine } from "@larder/core/versions/manifest";
import { createInterface } from "node:readline";

/** The lines of a frozen or half-built manifest, after its header. */
export async function* manifestLines(stream: NodeJS.ReadableStream): AsyncGenerator<ReadLine> {
  let first = true;
  for await (const text of createInterface({ input: stream, crlfDelay: Infinity })) {
    if (!first) yield readLine(text);
    first = false;
  }
}

/** The header of a manifest, which its stream is then closed after. */
export async function manifestHeader(
  stream: NodeJS.ReadableStream & { destroy?: () => void },
): Promise<ManifestHeader> {
  const lines = createInterface({ input: stream, crlfDelay: Infinity });
  try {
    for await (const text of lines) return readHeader(text);
  } finally {
    lines.close();
    stream.destroy?.();
  }
  throw new Error("this manifest is empty");
}
