import { migrate as run } from "drizzle-orm/node-postgres/migrator";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { db } from "./database";

/** Brings the database to the newest schema; does nothing where it is there already. */
export async function migrate(): Promise<void> {
  await run(db(), { migrationsFolder: path.join(path.dirname(fileURLToPath(import.meta.url)), "migrations") });
}
