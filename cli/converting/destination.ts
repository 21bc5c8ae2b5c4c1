/** Where a conversion ends up: written aside until it is whole, then moved to its place. */
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { LinkingSink } from "@larder/core/formats/write-package";
import { FolderSink } from "@larder/server/files/folder-sink";
import { FolderTree } from "@larder/server/files/folder-tree";
import { useRuntimeChecksum } from "@larder/server/files/runtime-checksum";
import { ZipSink } from "@larder/server/files/zip-sink";
import { ZipTree } from "@larder/server/files/zip-tree";
import { settings } from "@larder/server/settings";
import { existsSync, lstatSync, readdirSync, rmSync } from "node:fs";
import { mkdir, rename, rm, rmdir } from "node:fs/promises";
import path from "node:path";

/** Throws a Failure where the destination holds something; nothing is touched then. */
export function refuseFilled(destination: string): void {
  const found = lstatSync(destination, { throwIfNoEntry: false });
  if (!found) return;
  const filled = found.isDirectory() ? readdirSync(destination).length > 0 : true;
  if (filled)
    throw new Failure(
      "destination-filled",
      `${destination} holds something already. Nothing was touched; name a folder that is absent or empty.`,
    );
}

export class Destination {
  private readonly zipped: boolean;
  private readonly aside: string;
  private opened: FolderSink | ZipSink | null = null;
  private readonly clearing = () => {
    rmSync(this.aside, { recursive: true, force: true });
    rmSync(`${this.aside}.spools`, { recursive: true, force: true });
    process.exit(1);
  };

  constructor(private readonly destination: string) {
    refuseFilled(destination);
    this.zipped = /\.zip$/i.test(destination);
    this.aside = path.join(
      path.dirname(path.resolve(destination)),
      `.${path.basename(destination)}.part-${process.pid}`,
    );
  }

  /** The sink to write into. A stop from outside clears what lies aside. */
  async open(): Promise<LinkingSink> {
    await mkdir(path.dirname(this.aside), { recursive: true });
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, this.clearing);
    if (!this.zipped) await mkdir(this.aside);
    useRuntimeChecksum();
    this.opened = this.zipped ? new ZipSink(this.aside) : new FolderSink(this.aside);
    return this.opened;
  }

  /** What was written, to be read back; call `close` after. */
  async written(): Promise<{ tree: FileTree; close: () => void }> {
    await this.opened?.finish();
    if (!this.zipped) return { tree: new FolderTree(this.aside), close: () => undefined };
    const zip = await ZipTree.open(
      this.aside,
      { ...settings().limits, archiveBytes: Infinity, entryBytes: Infinity, ratio: Infinity },
      new Findings(),
    );
    return { tree: zip, close: () => zip.close() };
  }

  /** Moves what was written to its place. */
  async moveIn(): Promise<void> {
    if (existsSync(this.destination)) await rmdir(this.destination);
    await rename(this.aside, this.destination);
  }

  /** Leaves nothing lying aside. */
  async clear(): Promise<void> {
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.removeListener(signal, this.clearing);
    await this.opened?.discard().catch(() => undefined);
    await rm(this.aside, { recursive: true, force: true });
  }
}
