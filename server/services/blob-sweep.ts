import { sql } from "drizzle-orm";
import { blobs } from "../blobs/store";
import { db } from "../db/database";

/**
 * Removes bytes that nothing refers to any more. Candidates are named by deletions, which write them to
 * `blob_candidates`; what an image, a version, a package or a staged delivery still needs stays. While pictures are
 * taken in or looked into,
 * which may be about to refer to bytes it found in the store, everything waits for the next sweep.
 */
export async function removeUnusedBlobs(): Promise<void> {
  const { rows } = await db().execute<{ sha256: string }>(sql`
    with swept as (
      delete from blob_candidates
      where not exists (select 1 from jobs where kind in ('take-in', 'look-into') and status in ('queued', 'running', 'paused'))
      returning sha256
    )
    select sha256 from swept s
    where not exists (select 1 from images i where i.sha256 = s.sha256)
      and not exists (select 1 from version_sources v where v.sha256 = s.sha256)
      and not exists (select 1 from versions v where v.digest = s.sha256)
      and not exists (select 1 from packages p where p.sha256 = s.sha256)
      and not exists (select 1 from delivery_items d where d.sha256 = s.sha256)`);
  if (rows.length === 0) return;
  await db().execute(sql`delete from links where sha256 = any(${sql.param(rows.map(({ sha256 }) => sha256))}::text[])`);
  for (const { sha256 } of rows) await blobs().remove(sha256);
}
