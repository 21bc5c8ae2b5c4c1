import { sql } from "drizzle-orm";
import type { Transaction } from "./database";

const lock = sql`hashtext('larder blobs')`;

/**
 * Keeps sweeps off until the transaction ends: for writing down a reference to bytes that are in the store already, and
 * for beginning a job that may come to refer to some.
 */
export async function holdBlobs(tx: Transaction): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock_shared(${lock})`);
}

/** Waits until nobody holds blobs, and lets nobody until the transaction ends: for sweeping. */
export async function lockBlobs(tx: Transaction): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${lock})`);
}
