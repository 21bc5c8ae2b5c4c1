/**
 * Files compressed as one piece (gzip, RFC 1952): unpacked once, because what lies inside can only be reached from the
 * front.
 */
import { Failure } from "@larder/core/model/failure";
import { createReadStream, createWriteStream } from "node:fs";
import { rename, rm, stat } from "node:fs/promises";
import { Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import type { ArchiveLimits } from "./zip-tree";

/** Compressed pictures shrink little, but labels shrink much: the ratio counts only above this many unpacked bytes. */
const ratioFloor = 64 << 20;

/** The name a file has once it is unpacked: `a.tar` for `a.tar.gz` and `a.tgz`; null for names of other kinds. */
export function unpackedName(name: string): string | null {
  if (/\.tgz$/i.test(name)) return name.replace(/\.tgz$/i, ".tar");
  return /.\.gz$/i.test(name) ? name.replace(/\.gz$/i, "") : null;
}

/**
 * Unpacks `file` to `target`, which gets its name when it is whole. Throws a Failure where it is damaged, or too large
 * by `limits`.
 */
export async function gunzip(file: string, target: string, limits: ArchiveLimits): Promise<void> {
  const most = Math.min(limits.archiveBytes, Math.max(ratioFloor, limits.ratio * (await stat(file)).size));
  // Always the same name: what a killed run left is written over by the next.
  const part = `${target}.part`;
  let bytes = 0;
  const counting = new Transform({
    transform(chunk: Uint8Array, _encoding, done) {
      bytes += chunk.length;
      if (bytes > most)
        done(
          new Failure(
            "archive-too-large",
            `It unpacks to more than ${Math.round(most / 2 ** 20).toLocaleString("en-US")} MB, which is more than is allowed (LARDER_MAX_ARCHIVE_MB, LARDER_MAX_RATIO).`,
          ),
        );
      else done(null, chunk);
    },
  });
  try {
    await pipeline(createReadStream(file), createGunzip(), counting, createWriteStream(part));
    await rename(part, target);
  } catch (error) {
    await rm(part, { force: true });
    const { code } = error as { code?: string };
    if (typeof code === "string" && code.startsWith("Z_"))
      throw new Failure("not-a-gzip", "It is no gzip, or it is damaged or cut off. Send it again, or pack it anew.");
    throw error;
  }
}
