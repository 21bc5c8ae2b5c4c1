import { sniff, type Guess } from "@larder/core/formats/sniff";
import { Failure } from "@larder/core/model/failure";
import { extensionOf, isImagePath, type FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import { existsSync } from "node:fs";
import { rm } from "node:fs/promises";
import { readFileRange } from "../../files/folder-tree";
import { TarTree } from "../../files/tar-tree";
import { ZipTree } from "../../files/zip-tree";
import { settings } from "../../settings";

export type Archive = { tree: FileTree; close: () => void };

/** A tar says so at byte 257 of its first header. */
async function isTar(file: string): Promise<boolean> {
  return new TextDecoder().decode(await readFileRange(file, 257, 262)) === "ustar";
}

/** Opens a delivery's archive, a zip or a tar. Throws a Failure where it is gone or neither. */
export async function openArchive(archive: string | null, report: Findings): Promise<Archive> {
  if (!archive || !existsSync(archive)) throw new Failure("archive-missing", "The archive of this delivery is not there any more. Send it again.");
  if (await isTar(archive)) return { tree: await TarTree.open(archive, report), close: () => undefined };
  const zip = await ZipTree.open(archive, settings().limits, report);
  return { tree: zip, close: () => zip.close() };
}

const idleMs = 20_000;
const opened = new Map<string, { archive: Promise<Archive>; users: number; timer: NodeJS.Timeout | null }>();

/**
 * Runs `work` on a delivery's archive, which stays open for a moment afterwards: a sheet asks for one preview after
 * the other, and opening means reading the archive's whole directory.
 */
export async function withArchive<T>(archive: string | null, work: (tree: FileTree) => Promise<T>): Promise<T> {
  const key = archive ?? "";
  let entry = opened.get(key);
  if (!entry || !existsSync(key)) {
    entry = { archive: openArchive(archive, new Findings()), users: 0, timer: null };
    opened.set(key, entry);
  }
  const own = entry;
  own.users++;
  if (own.timer) clearTimeout(own.timer);
  try {
    return await work((await own.archive).tree);
  } finally {
    own.users--;
    if (own.users === 0) {
      own.timer = setTimeout(() => {
        if (opened.get(key) === own) opened.delete(key);
        void own.archive.then(({ close }) => close(), () => undefined);
      }, idleMs);
      own.timer.unref();
    }
  }
}

/** The formats that fit, best first; a source without any picture is refused with a sentence. */
export async function understand(tree: FileTree, report: Findings): Promise<Guess[]> {
  const entries = await tree.entries();
  const unsafe = report.count("entry-unsafe");
  if (entries.length === 0) {
    throw new Failure("archive-empty", unsafe > 0 ? `None of its ${unsafe} entries is safe to take: ${report.list()[0]?.message ?? ""}` : "The archive is empty: there is no file in it.");
  }
  const guesses = await sniff(tree).catch((error: unknown) => {
    if (error instanceof Failure) return [];
    throw error;
  });
  const holdsPictures = entries.some((entry) => isImagePath(entry.path) || extensionOf(entry.path) === "rec") || guesses[0]?.format.loosePictures === false;
  if (!holdsPictures || guesses.length === 0) {
    throw new Failure("no-images", `There is no picture in the archive, among its ${entries.length.toLocaleString("en-US")} ${entries.length === 1 ? "file" : "files"}. Pack the images together with their annotations.`);
  }
  return guesses;
}

/** Deletes an uploaded archive and the note its upload left beside it; an archive from elsewhere is not ours to delete. */
export async function removeArchive(archive: string | null): Promise<void> {
  if (!archive?.startsWith(settings().home)) return;
  await rm(archive, { force: true });
  await rm(`${archive}.json`, { force: true });
}
