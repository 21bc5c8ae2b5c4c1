/** The entries of a tar with where their bytes lie, read as a stream. */
import { extract } from "tar-stream";
import { unsafeName } from "../../model/file-tree";

export type TarEntry = { name: string; type: string; offset: number; size: number };

/**
 * Why an entry must not be taken: its name, or that it is no plain file; null where it may. Folders are for the caller
 * to skip.
 */
export function unsafeEntry({ name, type }: Pick<TarEntry, "name" | "type">): string | null {
  const named = unsafeName(name);
  if (named) return named;
  if (type === "symlink" || type === "link") return "it is a link";
  return ["file", "contiguous-file", "directory"].includes(type) ? null : `it is a ${type}`;
}

/** Every whole entry in order. Throws where the archive is damaged or cut off, after the entries before. */
export async function* tarEntries(stream: AsyncIterable<Uint8Array>): AsyncIterable<TarEntry> {
  const archive = extract();
  let failed: Error | null = null;
  let fed = 0;
  const feeding = (async () => {
    for await (const chunk of stream) {
      if (archive.destroyed) return;
      fed += chunk.length;
      // The chunk's memory may be reused by its stream.
      if (!archive.write(chunk.slice()))
        await new Promise<void>((resume) => archive.once("drain", resume).once("close", resume));
    }
    archive.end(null);
  })();
  feeding.catch((error: unknown) => {
    failed = error instanceof Error ? error : new Error(String(error));
    archive.destroy(failed);
  });
  // An entry is known to be whole once all of its bytes have come.
  let last: TarEntry | null = null;
  const isWhole = (entry: TarEntry) => entry.offset + entry.size <= fed;
  try {
    for await (const entry of archive) {
      const { name, type, size, byteOffset } = entry.header as typeof entry.header & { byteOffset: number };
      if (last) yield last;
      entry.resume();
      last = { name, type: type ?? "file", offset: byteOffset, size: size ?? 0 };
    }
    if (last && isWhole(last)) yield last;
  } catch (error) {
    if (last && isWhole(last)) yield last;
    throw error;
  } finally {
    archive.destroy(new Error("closed"));
  }
  // Set while the entries were awaited, which the checker cannot see.
  const trouble = failed as Error | null;
  if (trouble) throw trouble;
}
