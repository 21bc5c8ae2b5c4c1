/** What a job found of looks, beside the snapshot of its collection, for as long as that stays as it is. */
import { unpackLooks, type Looks } from "@larder/core/checks/looks";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import type pg from "pg";
import { settings } from "../settings";

/** `stale`: so many images changed since, or were learned anew. */
export type Comparison = { looks: Looks; stale: number };
type Loaded = { key: string; comparison: Comparison | null };
const loaded = new WeakMap<Snapshot, Loaded>();

/** Whether what objects and images with a class look like is compared while somebody waits. */
export function canCompare({ objectClass, classSet, length }: Snapshot): boolean {
  const { comparedAtOnce } = settings();
  let things = objectClass.length;
  for (let slot = 0; slot < length; slot++) if (classSet.at(slot) > 0) things++;
  return things <= comparedAtOnce;
}

type Row = { changed: string; learned: string };

/** Reads what the last comparison of a collection found, where a job has to compare it. */
export async function loadComparison(client: pg.ClientBase, collection: number, snapshot: Snapshot): Promise<void> {
  if (canCompare(snapshot)) return;
  const { rows } = await client.query<Row>("select changed, learned from looks_comparisons where collection_id = $1", [
    collection,
  ]);
  const [row] = rows;
  const key = JSON.stringify([snapshot.revision, snapshot.learned?.upTo, row]);
  if (loaded.get(snapshot)?.key === key) return;
  if (!row) return void loaded.set(snapshot, { key, comparison: null });
  const found = await client.query<{ found: Buffer }>("select found from looks_comparisons where collection_id = $1", [
    collection,
  ]);
  const looks = unpackLooks(snapshot, found.rows[0]?.found ?? Buffer.alloc(0));
  const stale = changedSince(snapshot, Number(row.changed), Number(row.learned));
  loaded.set(snapshot, { key, comparison: { looks, stale } });
}

/** So many images in stock changed after a time (epoch milliseconds), or were learned after a number. */
function changedSince(snapshot: Snapshot, time: number, learned: number): number {
  let count = 0;
  for (let slot = 0; slot < snapshot.length; slot++)
    if (
      snapshot.present.at(slot) === 1 &&
      (snapshot.changed.at(slot) > time || (snapshot.learned?.madeOf(snapshot, slot) ?? 0) > learned)
    )
      count++;
  return count;
}

/** What the last comparison found; null where there is none, or none is needed. */
export const comparisonOf = (snapshot: Snapshot): Comparison | null => loaded.get(snapshot)?.comparison ?? null;

/** Compared anew where more than a few images, or one in a hundred, are not as they were. */
const fewStale = 20;

/** Whether a job is wanted that compares the collection: never yet, or too much changed since. */
export function wantsComparing(snapshot: Snapshot): boolean {
  if (canCompare(snapshot)) return false;
  const known = comparisonOf(snapshot);
  return known === null || known.stale > Math.max(fewStale, snapshot.length / 100);
}
