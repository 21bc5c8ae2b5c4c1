import { drizzle, type NodePgQueryResultHKT } from "drizzle-orm/node-postgres";
import type { PgDatabase } from "drizzle-orm/pg-core";
import type { ExtractTablesWithRelations } from "drizzle-orm";
import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";
import { settings } from "../settings";
import * as schema from "./schema";

/** What queries run on: the pool, or one transaction. */
export type Database = PgDatabase<NodePgQueryResultHKT, typeof schema, ExtractTablesWithRelations<typeof schema>>;
export type Transaction = Database;

// Counts and identifiers stay far below 2^53, so they are read as numbers.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

/** Where the database is: as configured, else the one Larder keeps in its home. */
export function databaseUrl(): string {
  const { databaseUrl: configured, home } = settings();
  return configured ?? readFileSync(path.join(home, "database-url"), "utf8").trim();
}

/** A process that stops in the middle of a transaction must not keep its locks: the others go on after this long. */
const idleInTransaction = 20_000;

// One pool a process, also across the reloads of a development server.
const shared = globalThis as { larderPool?: pg.Pool };

export function pool(): pg.Pool {
  if (!shared.larderPool) {
    shared.larderPool = new pg.Pool({
      connectionString: databaseUrl(),
      max: 12,
      idle_in_transaction_session_timeout: idleInTransaction,
    });
    // An idle connection that the server closes is replaced at the next query.
    shared.larderPool.on("error", () => undefined);
  }
  return shared.larderPool;
}

let database: Database | null = null;

export function db(): Database {
  database ??= drizzle(pool(), { schema });
  return database;
}

export async function closePool(): Promise<void> {
  await shared.larderPool?.end();
  delete shared.larderPool;
  database = null;
}

/** Runs `work` in a transaction; `client` is its connection, for what only the driver can do (COPY). */
export async function transaction<T>(work: (tx: Transaction, client: pg.PoolClient) => Promise<T>): Promise<T> {
  return onConnection("begin", work);
}

/**
 * Runs `work` on one unchanging state of the database, whatever others commit meanwhile; nothing can be written. It may
 * take its time between two queries.
 */
export async function steadyRead<T>(work: (tx: Transaction, client: pg.PoolClient) => Promise<T>): Promise<T> {
  return onConnection("begin isolation level repeatable read, read only", async (tx, client) => {
    await client.query("set local idle_in_transaction_session_timeout = 0");
    return work(tx, client);
  });
}

async function onConnection<T>(
  begin: string,
  work: (tx: Transaction, client: pg.PoolClient) => Promise<T>,
): Promise<T> {
  const client = await pool().connect();
  let broken: Error | undefined;
  const heed = (error: Error) => (broken = error);
  client.on("error", heed);
  try {
    await client.query(begin);
    const result = await work(drizzle(client, { schema }), client);
    await client.query("commit");
    return result;
  } catch (error) {
    await client.query("rollback").catch((problem: Error) => (broken = problem));
    throw error;
  } finally {
    client.off("error", heed);
    client.release(broken);
  }
}
