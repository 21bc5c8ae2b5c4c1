/** Several file trees as one: each under a folder of its own, or at the top. */
import { Failure } from "@larder/core/model/failure";
import type { FileEntry, FileTree } from "@larder/core/model/file-tree";

/** `at` is a folder without its trailing slash; "" mounts at the top. */
export type Mount = { at: string; tree: FileTree };

export class MountedTree implements FileTree {
  private listed: Promise<FileEntry[]> | null = null;
  private readonly from = new Map<string, { tree: FileTree; path: string }>();

  constructor(private readonly mounts: readonly Mount[]) {}

  /** Of two files with the same path the one mounted first counts. */
  entries(): Promise<FileEntry[]> {
    this.listed ??= (async () => {
      const all: FileEntry[] = [];
      for (const { at, tree } of this.mounts) {
        for (const { path, size } of await tree.entries()) {
          const mounted = at === "" ? path : `${at}/${path}`;
          if (this.from.has(mounted)) continue;
          this.from.set(mounted, { tree, path });
          all.push({ path: mounted, size });
        }
      }
      return all.sort((a, b) => (a.path < b.path ? -1 : 1));
    })();
    return this.listed;
  }

  private async find(path: string): Promise<{ tree: FileTree; path: string }> {
    await this.entries();
    const found = this.from.get(path);
    if (!found) throw new Failure("file-missing", `There is no ${path} in this delivery.`);
    return found;
  }

  async read(path: string): Promise<Uint8Array> {
    const found = await this.find(path);
    return found.tree.read(found.path);
  }

  async *stream(path: string): AsyncIterable<Uint8Array> {
    const found = await this.find(path);
    yield* found.tree.stream(found.path);
  }

  async readRange(path: string, start: number, end: number): Promise<Uint8Array> {
    const found = await this.find(path);
    return found.tree.readRange(found.path, start, end);
  }
}
