/** Versions beside the snapshot of their collection, for as long as that stays as it is. */
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { VersionSnapshot, type VersionStock } from "@larder/core/snapshot/version-snapshot";
import { manifestHeader, manifestLines } from "../blobs/manifest-lines";
import { blobs } from "../blobs/store";
import { derived } from "./derived";

type Loaded = { revision: number; digest: string; stock: VersionStock };
/** The one that was asked for last. */
const loaded = new WeakMap<Snapshot, Loaded>();

const find = (base: Snapshot, digest: string): Loaded | null => {
  const known = loaded.get(base);
  return known?.digest === digest && known.revision === base.revision ? known : null;
};

/** Reads a version's manifest, so that `versionStock` has it. */
export async function loadVersion(base: Snapshot, digest: string): Promise<void> {
  if (find(base, digest)) return;
  const { stock, slots } = derived(base).slotted;
  const slotOfHash = new Map(stock.keys.map((key, n) => [key, slots[n] as number]));
  const header = await manifestHeader(await blobs().stream(digest));
  const version = new VersionSnapshot(base, (hash) => slotOfHash.get(hash), header);
  for await (const line of manifestLines(await blobs().stream(digest))) version.add(line);
  loaded.set(base, { revision: base.revision, digest, stock: version.finished() });
}

export function versionStock(base: Snapshot, digest: string): VersionStock {
  const known = find(base, digest);
  if (!known) throw new Error(`version ${digest} was not loaded`);
  return known.stock;
}
