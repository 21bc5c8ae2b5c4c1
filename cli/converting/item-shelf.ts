/** Items of a source, set down on disk by the hash of their pictures and read again in any order. */
import type { Inside, Item } from "@larder/core/model/item";
import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";

export type ShelvedItem = Omit<Item, "inside"> & {
  inside?: Inside;
  width: number;
  height: number;
  orientation: number;
  extension: string;
};

export class ItemShelf {
  private readonly folder = mkdtempSync(path.join(tmpdir(), "larder-build-"));
  private readonly file = openSync(path.join(this.folder, "items"), "w+");
  private readonly places = new Map<string, { offset: number; length: number }>();
  private end = 0;

  /** Sets an item down; one that is there under the same hash is replaced. */
  put(key: string, item: ShelvedItem): void {
    const bytes = Buffer.from(JSON.stringify(item));
    writeSync(this.file, bytes, 0, bytes.length, this.end);
    this.places.set(key, { offset: this.end, length: bytes.length });
    this.end += bytes.length;
  }

  get(key: string): ShelvedItem {
    const place = this.places.get(key);
    if (!place) throw new Error(`no item ${key}`);
    const bytes = Buffer.alloc(place.length);
    readSync(this.file, bytes, 0, place.length, place.offset);
    return JSON.parse(bytes.toString("utf8")) as ShelvedItem;
  }

  /** A folder for whatever else is made on the way; it goes with the shelf. */
  get scratch(): string {
    return this.folder;
  }

  close(): void {
    closeSync(this.file);
    rmSync(this.folder, { recursive: true, force: true });
  }
}
