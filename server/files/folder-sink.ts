import { Failure } from "@larder/core/model/failure";
import { baseName, folderOf, type FileSink, type Spool } from "@larder/core/model/file-tree";
import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { link, mkdir, rename, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { DiskSpool } from "./disk-spool";
import { SmallFiles } from "./small-files";

/** Files up to this size are written many at once. */
const smallFile = 16 * 1024;

/**
 * Writes files into a folder; a path that would leave it is refused. What goes wrong with a small file may be thrown
 * by a later call, at the latest by `finish`.
 */
export class FolderSink implements FileSink {
  private readonly folder: string;
  /** Folders that were made, by their path in this one. */
  private readonly made = new Map<string, string>();
  private readonly small = new SmallFiles();

  constructor(folder: string) {
    this.folder = path.resolve(folder);
  }

  private async inside(relative: string): Promise<string> {
    const parent = folderOf(relative);
    const name = baseName(relative);
    if (relative.startsWith("/") || name === "..")
      throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    return (this.made.get(parent) ?? (await this.makeFolder(parent))) + name;
  }

  /** Makes a folder and returns its place with a separator at its end. */
  private async makeFolder(relative: string): Promise<string> {
    const full = path.resolve(this.folder, relative);
    if (!(full + path.sep).startsWith(this.folder + path.sep))
      throw new Failure("entry-unsafe", `${relative} would leave its folder.`);
    await mkdir(full, { recursive: true });
    this.made.set(relative, full + path.sep);
    return full + path.sep;
  }

  async write(relative: string, content: Uint8Array | string | AsyncIterable<Uint8Array>): Promise<void> {
    const full = await this.inside(relative);
    if (typeof content === "string" || content instanceof Uint8Array) {
      if (content.length <= smallFile) await this.small.write(full, content);
      else await writeFile(full, content, { flag: "wx" });
    } else await pipeline(Readable.from(content), createWriteStream(full, { flags: "wx" }));
  }

  /** A hard link to a file of the same disk; false where that is not possible. */
  async link(relative: string, file: string): Promise<boolean> {
    const full = await this.inside(relative);
    return link(file, full).then(
      () => true,
      (error: unknown) => {
        if (["EXDEV", "EPERM", "EMLINK", "ENOTSUP"].includes((error as { code?: string }).code ?? "")) return false;
        throw error;
      },
    );
  }

  async spool(): Promise<Spool> {
    await mkdir(this.folder, { recursive: true });
    return new DiskSpool(path.join(this.folder, `.spool-${randomUUID()}`), async (file, relative) =>
      rename(file, await this.inside(relative)),
    );
  }

  /** Resolves when every file lies in the folder. */
  async finish(): Promise<void> {
    await this.small.finish();
  }

  /** Takes away all that was written. */
  async discard(): Promise<void> {
    await this.small.finish().catch(() => undefined);
    await rm(this.folder, { recursive: true, force: true });
  }
}
