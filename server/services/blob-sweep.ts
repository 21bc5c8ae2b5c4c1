/**
 * Removing bytes that nothing refers to any more. Deletions name candidates in `blob_candidates`; what is still needed
 * stays: by an image (in stock or in the bin), a version, a package, a delivery that is being looked into or whose file
 * need not be sent, a version that is being built.
 */
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { blobs } from "../blobs/store";
import { lockBlobs } from "../db/blob-lock";
import { db, transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { nameCandidates } from "./name-candidates";

/** Jobs that may be about to refer to bytes they found in the store; while one runs, everything waits. */
const referring = sql`select 1 from jobs where kind in ('take-in', 'look-into', 'build-version', 'pack') and status = 'running' and lease_until > now()`;

const needed: Record<"blob" | "render", SQL> = {
  blob: sql`exists (select 1 from images t where t.sha256 = c.sha256) or exists (select 1 from version_sources t where t.sha256 = c.sha256)
    or exists (select 1 from versions t where t.digest = c.sha256) or exists (select 1 from packages t where t.sha256 = c.sha256)
    or exists (select 1 from delivery_items t where t.sha256 = c.sha256) or exists (select 1 from delivery_files t where t.sha256 = c.sha256)`,
  render: sql`exists (select 1 from version_renders t where t.key = c.sha256)`,
};

/**
 * Names what lies in the store and no row knows of: what a worker had stored when it was killed, before it could say so.
 */
export async function nameOrphans(): Promise<void> {
  for (const [files, kind] of [
    ["blobs", "blob"],
    ["thumbnails", "blob"],
    ["cutouts", "blob"],
    ["class-pictures", "blob"],
    ["renders", "render"],
  ] as const)
    for await (const names of blobs().names(files))
      await nameCandidates(
        db(),
        sql`select ${kind}::text, c.sha256 from unnest(${sql.param(names)}::text[]) as c(sha256) where not (${needed[kind]})`,
      );
}

const sweptAtOnce = 200;
const candidateSchema = z.object({ kind: z.enum(["blob", "render"]), sha256: z.string(), unused: z.boolean() });

/**
 * Sweeps what is named, a few at a time, each few under a lock that keeps new references away. Returns how many were
 * removed. Whatever waits for a running job is swept the next time.
 */
export async function removeUnusedBlobs(): Promise<number> {
  for (let removed = 0; ;) {
    const swept = await transaction(async (tx) => {
      await lockBlobs(tx);
      const few = await rowsOf(
        tx,
        candidateSchema,
        sql`delete from blob_candidates c using (select kind, sha256 from blob_candidates where not exists (${referring}) order by kind, sha256 limit ${sweptAtOnce} for update) few
          where c.kind = few.kind and c.sha256 = few.sha256
          returning c.kind, c.sha256, case c.kind when 'blob' then not (${needed.blob}) else not (${needed.render}) end as unused`,
      );
      const unused = few.filter((candidate) => candidate.unused);
      const hashes = unused.filter(({ kind }) => kind === "blob").map(({ sha256 }) => sha256);
      await tx.execute(sql`delete from links where sha256 = any(${sql.param(hashes)}::text[])`);
      for (const { kind, sha256 } of unused)
        await (kind === "blob" ? blobs().remove(sha256) : blobs().removeDerived("renders", sha256));
      return { looked: few.length, removed: unused.length };
    });
    removed += swept.removed;
    if (swept.looked < sweptAtOnce) return removed;
  }
}
