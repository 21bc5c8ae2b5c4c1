/**
 * Where a file that is sent lies in its folder: under its own path, unless a disk cannot have that. Then it lies under a
 * hash, with its path in a file beside it, and FolderTree gives it back under that path.
 */
import { createHash } from "node:crypto";
import { mkdir, stat, writeFile } from "node:fs/promises";
import path from "node:path";

/** The folder within a folder that holds what could not lie under its own path. */
export const namesFolder = ".larder-names";
/** The file with the path of `x` is called `x.path`. */
export const pathSuffix = ".path";

/** A disk takes 255 bytes a name; some are left for what is put behind it while it is written. */
const mostBytes = 240;

/** Makes the folders of a path; false where one of them is a file already. */
async function makeFolders(file: string): Promise<boolean> {
  try {
    await mkdir(path.dirname(file), { recursive: true });
    return true;
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === "ENOTDIR" || code === "EEXIST") return false;
    throw error;
  }
}

/** The place on disk for a file of this path (safe, relative, with `/`) in `folder`; its folders are made. */
export async function namedPlace(folder: string, relative: string): Promise<string> {
  const plain = path.join(folder, relative);
  const short = relative.split("/").every((part) => Buffer.byteLength(part) <= mostBytes);
  const isFolder = async () => (await stat(plain).catch(() => null))?.isDirectory() ?? false;
  if (short && (await makeFolders(plain)) && !(await isFolder())) return plain;
  const place = path.join(folder, namesFolder, createHash("sha256").update(relative).digest("hex"));
  await mkdir(path.dirname(place), { recursive: true });
  await writeFile(`${place}${pathSuffix}`, relative);
  return place;
}
