import { drizzle, type NodePgDatabase } from "drizzle-orm/node-postgres";
import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";
import { settings } from "../settings";
import * as schema from "./schema";

export type Database = NodePgDatabase<typeof schema>;
export type Transaction = Parameters<Parameters<Database["transaction"]>[0]>[0];

// Counts and identifiers stay far below 2^53, so they are read as numbers.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

/** Where the database is: as configured, else the one Larder keeps in its home. */
export function databaseUrl(): string {
  const { databaseUrl: configured, home } = settings();
  return configured ?? readFileSync(path.join(home, "database-url"), "utf8").trim();
}

// One pool a process, also across the reloads of a development server.
const held = globalThis as { larderPool?: pg.Pool };

export function pool(): pg.Pool {
  if (!held.larderPool) {
    held.larderPool = new pg.Pool({ connectionString: databaseUrl(), max: 12 });
    // An idle connection that the server closes is replaced at the next query.
    held.larderPool.on("error", () => undefined);
  }
  return held.larderPool;
}

let database: Database | null = null;

export function db(): Database {
  database ??= drizzle(pool(), { schema });
  return database;
}

export async function closePool(): Promise<void> {
  await held.larderPool?.end();
  delete held.larderPool;
  database = null;
}
