import { drizzle } from "drizzle-orm/node-postgres";
import { migrate as run } from "drizzle-orm/node-postgres/migrator";
import path from "node:path";
import { fileURLToPath } from "node:url";
import pg from "pg";
import { databaseUrl } from "./database";

/** Brings a database to the newest schema; does nothing where it is there already. */
export async function migrate(url = databaseUrl()): Promise<void> {
  // One connection for all of it: what a migration needs for a moment are temporary functions and tables.
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await run(drizzle(client), {
      migrationsFolder: path.join(path.dirname(fileURLToPath(import.meta.url)), "migrations"),
    });
  } finally {
    await client.end();
  }
}
