import { sql, type SQL } from "drizzle-orm";
import type { Database } from "../db/database";

/**
 * Names bytes for sweeping that something which goes needed: `rows` is a query of kinds (blob, render) and hashes. In one
 * order, whoever names them, so that two who name the same ones wait for each other instead of both for ever.
 */
export async function nameCandidates(tx: Database, rows: SQL): Promise<void> {
  await tx.execute(sql`insert into blob_candidates (kind, sha256)
    select distinct c.kind, c.sha256 from (${rows}) as c(kind, sha256) order by c.kind, c.sha256 on conflict do nothing`);
}
