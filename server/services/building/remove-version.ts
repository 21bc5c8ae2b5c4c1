import { eq, sql } from "drizzle-orm";
import type { Transaction } from "../../db/database";
import { versions } from "../../db/schema";
import { nameCandidates } from "../name-candidates";

/** Removes a version with its packages; the bytes that it alone needed are named for sweeping. */
export async function removeVersion(tx: Transaction, id: number): Promise<void> {
  await nameCandidates(
    tx,
    sql`select 'blob', sha256 from version_sources where version_id = ${id}
    union select 'render', key from version_renders where version_id = ${id}
    union select 'blob', digest from versions where id = ${id} and digest is not null
    union select 'blob', sha256 from packages where version_id = ${id} and sha256 is not null`,
  );
  await tx.delete(versions).where(eq(versions.id, id));
}
