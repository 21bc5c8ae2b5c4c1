import { sniff, type Guess } from "@larder/core/formats/sniff";
import { Failure } from "@larder/core/model/failure";
import { isImagePath } from "@larder/core/model/file-tree";
import type { Findings } from "@larder/core/model/finding";
import { existsSync } from "node:fs";
import { rm } from "node:fs/promises";
import { ZipTree } from "../../files/zip-tree";
import { settings } from "../../settings";

/** Opens a delivery's archive. Throws a Failure where it is gone, no zip, or holds no picture. */
export async function openArchive(archive: string | null, report: Findings): Promise<ZipTree> {
  if (!archive || !existsSync(archive)) throw new Failure("archive-missing", "The archive of this delivery is not there any more. Send it again.");
  return ZipTree.open(archive, settings().limits, report);
}

/** The formats that fit, best first; a source without any picture is refused with a sentence. */
export async function understand(tree: ZipTree, report: Findings): Promise<Guess[]> {
  const entries = await tree.entries();
  const unsafe = report.count("entry-unsafe");
  if (entries.length === 0) {
    throw new Failure("archive-empty", unsafe > 0 ? `None of its ${unsafe} entries is safe to take: ${report.list()[0]?.message ?? ""}` : "The archive is empty: there is no file in it.");
  }
  if (!entries.some((entry) => isImagePath(entry.path))) {
    throw new Failure("no-images", `There is no picture in the archive, among its ${entries.length.toLocaleString("en-US")} ${entries.length === 1 ? "file" : "files"}. Pack the images together with their annotations.`);
  }
  return sniff(tree);
}

/** Deletes an uploaded archive and the note its upload left beside it; an archive from elsewhere is not ours to delete. */
export async function removeArchive(archive: string | null): Promise<void> {
  if (!archive?.startsWith(settings().home)) return;
  await rm(archive, { force: true });
  await rm(`${archive}.json`, { force: true });
}
